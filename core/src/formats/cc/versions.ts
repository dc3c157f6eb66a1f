/**
 * What differs between the versions of IMS Common Cartridge: namespaces, resource types, the schema version.
 * Version 1.1: IMS Common Cartridge Profile 1.1, 2011; version 1.3: IMS Common Cartridge Profile 1.3, 2013.
 */
export const CC_VERSIONS = ['1.0', '1.1', '1.2', '1.3'] as const;
export type CcVersion = (typeof CC_VERSIONS)[number];

export interface Vocabulary {
  schemaVersion: string;
  /** The `imscc…` segment shared by the version's namespaces and types. */
  stem: string;
  manifest: string;
  lomManifest: string;
  lomResource: string;
  webLink: string;
  webLinkType: string;
  topic: string;
  topicType: string;
  toolType: string;
  toolNamespace: string;
  quizType: string;
  bankType: string;
  associatedType: string;
}

function vocabulary(version: CcVersion): Vocabulary {
  const p = `v${version.replace('.', 'p')}`;
  const stem = version === '1.0' ? 'imscc_xmlv1p0' : `imscc_xml${p}`;
  const ns = `http://www.imsglobal.org/xsd/imscc${p}`;
  return {
    schemaVersion: `${version}.0`,
    stem,
    manifest: `${ns}/imscp_v1p1`,
    lomManifest: `http://ltsc.ieee.org/xsd/imscc${p}/LOM/manifest`,
    lomResource: `http://ltsc.ieee.org/xsd/imscc${p}/LOM/resource`,
    webLink: `${ns}/imswl_${p}`,
    webLinkType: `imswl_xml${p}`,
    topic: `${ns}/imsdt_${p}`,
    topicType: `imsdt_xml${p}`,
    toolType: version === '1.3' ? 'imsbasiclti_xmlv1p3' : 'imsbasiclti_xmlv1p0',
    toolNamespace:
      version === '1.3' ? 'http://www.imsglobal.org/xsd/imslticc_v1p3' : 'http://www.imsglobal.org/xsd/imslticc_v1p0',
    quizType: `imsqti_xmlv1p2/${stem}/assessment`,
    bankType: `imsqti_xmlv1p2/${stem}/question-bank`,
    associatedType: `associatedcontent/${stem}/learning-application-resource`,
  };
}

export const VOCABULARIES: Record<CcVersion, Vocabulary> = {
  '1.0': vocabulary('1.0'),
  '1.1': vocabulary('1.1'),
  '1.2': vocabulary('1.2'),
  '1.3': vocabulary('1.3'),
};

/** Cartridge extension for assignments: IMS CC extension resource, assignment 1.0. */
export const ASSIGNMENT_TYPE = 'assignment_xmlv1p0';
export const ASSIGNMENT_NAMESPACE = 'http://www.imsglobal.org/xsd/imscc_extensions/assignment';

export function asVersion(schemaVersion: string): CcVersion | null {
  const short = schemaVersion.trim().split('.').slice(0, 2).join('.');
  return CC_VERSIONS.find((v) => v === short) ?? null;
}

export type CcRole = 'web' | 'link' | 'topic' | 'tool' | 'quiz' | 'bank' | 'assignment' | 'associated';

/** What a resource is, by its type with the version cut out. */
export function roleOfType(type: string): CcRole | null {
  if (type === 'webcontent') return 'web';
  if (/^imswl_xmlv\dp\d$/.test(type)) return 'link';
  if (/^imsdt_xmlv\dp\d$/.test(type)) return 'topic';
  if (/^imsbasiclti_xmlv\dp\d/.test(type)) return 'tool';
  if (/^imsqti_xmlv1p2\/imscc_xmlv\dp\d\/assessment$/.test(type)) return 'quiz';
  if (/^imsqti_xmlv1p2\/imscc_xmlv\dp\d\/question-bank$/.test(type)) return 'bank';
  if (/^associatedcontent\//.test(type)) return 'associated';
  if (type === ASSIGNMENT_TYPE) return 'assignment';
  return null;
}
