import { elements, peekAt, taken, vocabularyOf, type XmlElement } from '../../markup/index.ts';

/**
 * QTI 2.1 and 2.2 write `choiceInteraction responseIdentifier`, QTI 3.0 writes `qti-choice-interaction
 * response-identifier`: one reader and one writer know the names of 2.x and take the others for them.
 */
export const QTI_VERSIONS = ['2.1', '2.2', '3.0'] as const;
export type QtiVersion = (typeof QTI_VERSIONS)[number];

export const NAMESPACES: Record<QtiVersion, string> = {
  '2.1': 'http://www.imsglobal.org/xsd/imsqti_v2p1',
  '2.2': 'http://www.imsglobal.org/xsd/imsqti_v2p2',
  '3.0': 'http://www.imsglobal.org/xsd/imsqtiasi_v3p0',
};

export function itemType(version: QtiVersion): string {
  return version === '3.0' ? 'imsqti_item_xmlv3p0' : `imsqti_item_xmlv${version.replace('.', 'p')}`;
}

export function testType(version: QtiVersion): string {
  return version === '3.0' ? 'imsqti_test_xmlv3p0' : `imsqti_test_xmlv${version.replace('.', 'p')}`;
}

/** The template of response processing, as each version addresses it. */
export function templateOf(version: QtiVersion, name: string): string {
  return version === '3.0'
    ? `https://purl.imsglobal.org/spec/qti/v3p0/rptemplates/${name}.xml`
    : `http://www.imsglobal.org/question/qti_v${version.replace('.', 'p')}/rptemplates/${name}`;
}

/** There are few names, and each is asked for many thousand times. */
function remembered(spell: (name: string) => string): (name: string) => string {
  const known = new Map<string, string>();
  return (name) => {
    const before = known.get(name);
    if (before !== undefined) return before;
    const spelled = spell(name);
    // Names come from packages too, and a package can make up as many as it likes.
    if (known.size < 1000) known.set(name, spelled);
    return spelled;
  };
}

const camel = remembered((name) => name.replace(/-([a-z0-9])/g, (_whole, letter: string) => letter.toUpperCase()));
const kebab = remembered((name) => name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`));

/** The name of an element in the spelling of 2.x. */
export function nameOf(element: XmlElement): string {
  return element.name.startsWith('qti-') ? camel(element.name.slice(4)) : element.name;
}

/** Whether an element is one of those, by their names in 2.x: it is then taken. */
export function isNamed(element: XmlElement, ...names: string[]): boolean {
  if (!names.includes(nameOf(element))) return false;
  taken(element);
  return true;
}

/** A vocabulary in the spellings of 2.x and of 3.0. */
export function qtiVocabulary(elements: string, attributes = ''): ReadonlySet<string> {
  const both = (names: string, spell: (name: string) => string) =>
    names
      .split(' ')
      .flatMap((name) => [name, spell(name)])
      .join(' ');
  return vocabularyOf(
    both(elements, (name) => elementName(name, '3.0')),
    both(attributes, (name) => attributeName(name, '3.0')),
  );
}

/** Whether a rubric is for people of that role (Assessment, Section and Item Information Model, `view`). */
export function isFor(role: string, rubric: XmlElement): boolean {
  const view = peekAt(rubric, 'view')?.split(/\s+/) ?? [];
  return view.length === 0 || view.includes(role);
}

/** An attribute by its name in 2.x. */
export function attributeOf(element: XmlElement, name: string): string | undefined {
  return element.attrs[name] ?? element.attrs[kebab(name)];
}

export function elementName(name: string, version: QtiVersion): string {
  return version === '3.0' ? `qti-${kebab(name)}` : name;
}

export function attributeName(name: string, version: QtiVersion): string {
  return version === '3.0' ? kebab(name) : name;
}

/** Elements inside, by the name that QTI 2 has for them. */
export const kids = (element: XmlElement | undefined, name?: string) =>
  elements(element).filter((e) => name === undefined || isNamed(e, name));
export const kid = (element: XmlElement | undefined, name: string) => kids(element, name)[0];
export const id = (element: XmlElement) => attributeOf(element, 'identifier') ?? '';

export const DECLARATION = '<?xml version="1.0" encoding="UTF-8"?>\n';

export type Attributes = Record<string, string | number | undefined>;

/** Identifiers of QTI are XML names. */
export function asIdentifier(id: string): string {
  if (/^[A-Za-z_][\w.-]*$/.test(id)) return id;
  const safe = [...id].map((c) => (/[\w.-]/.test(c) ? c : `_${(c.codePointAt(0) ?? 0).toString(16)}_`)).join('');
  return `id_${safe}`;
}
