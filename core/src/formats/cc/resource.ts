import { escapeXml, xml } from '../../markup/index.ts';
import type { Item } from '../../model/index.ts';
import { encodePath } from '../references.ts';

const STANDARDS_NAMESPACE = 'http://www.imsglobal.org/xsd/imscsmd_v1p0';
const VARIANT_NAMESPACE = 'http://www.imsglobal.org/xsd/imscp_extensionv1p2';

/** Curriculum standards (IMS CSM 1.0) and variants (IMS CP extension 1.2) in namespaces of their own. */
function standardsOf({ settings: { standards } }: Item): string {
  if (typeof standards !== 'object' || Array.isArray(standards)) return '';
  const guids = Object.entries(standards).map(([guid, label]) =>
    xml('csm:labelledGUID', {}, xml('csm:label', {}, escapeXml(label)), xml('csm:GUID', {}, escapeXml(guid))),
  );
  return xml(
    'csm:curriculumStandardsMetadataSet',
    { 'xmlns:csm': STANDARDS_NAMESPACE },
    xml('csm:curriculumStandardsMetadata', {}, xml('csm:setOfGUIDs', {}, ...guids)),
  );
}

function variantsOf(item: Item): string {
  const { variants } = item.settings;
  if (!Array.isArray(variants)) return '';
  return variants
    .map((to, i) =>
      xml('cpx:variant', {
        'xmlns:cpx': VARIANT_NAMESPACE,
        identifier: `${item.id}_variant_${i + 1}`,
        identifierref: to,
      }),
    )
    .join('');
}

function metadataOf(item: Item): string {
  const parts = rolesOf(item) + standardsOf(item);
  return parts === '' ? '' : xml('metadata', {}, parts);
}

function rolesOf(item: Item): string {
  const { audience } = item.settings;
  if (typeof audience !== 'string') return '';
  const roles = audience
    .split(', ')
    .map((role) =>
      xml(
        'lom:intendedEndUserRole',
        {},
        xml('lom:source', {}, 'IMSGLC_CC_Rolesv1p1'),
        xml('lom:value', {}, escapeXml(role)),
      ),
    );
  return xml('lom:lom', {}, xml('lom:educational', {}, ...roles));
}

/** A resource of the manifest, with what it says of the item. */
export function resource(item: Item, type: string, paths: readonly string[], href?: string): string {
  const use = item.settings.intendedUse;
  return xml(
    'resource',
    { identifier: item.id, type, href, intendeduse: typeof use === 'string' ? use : undefined },
    metadataOf(item),
    ...paths.map((path) => xml('file', { href: encodePath(path) })),
    variantsOf(item),
  );
}

export function webResource(item: Item, path: string): string {
  return resource(item, 'webcontent', [path], encodePath(path));
}
