import { child, descendants, elements, fold, is, taken, textOf, type XmlElement } from '../../markup/index.ts';

/** What SCORM 2004 says of the order of an item or folder (IMS Simple Sequencing, as SCORM 2004 has it). */
export type Sequencing = ReadonlyMap<string, XmlElement>;

/** The sequencing that items share, by the identifier that they refer to. */
export function sequencingCollection(root: XmlElement): ReadonlyMap<string, XmlElement> {
  return new Map(
    elements(child(root, 'sequencingCollection'), 'sequencing').map((s) => [s.attrs['ID'] ?? '', s] as const),
  );
}

/** Its parts by their names: an element's own, and of the shared one that it refers to what it does not say itself. */
export function sequencingOf(element: XmlElement, shared: ReadonlyMap<string, XmlElement>): Sequencing {
  const own = child(element, 'sequencing');
  const shareds = own && shared.get(own.attrs['IDRef'] ?? '');
  return new Map([...elements(shareds), ...elements(own)].map((part) => [part.name, part]));
}

/** One of them, which is then read. */
export function partOf(sequencing: Sequencing, name: string): XmlElement | undefined {
  const part = sequencing.get(name);
  return part && taken(part);
}

/** The share of points that satisfies it, of 1; '' where none is set. */
export function neededShare(sequencing: Sequencing): string {
  const objective = child(partOf(sequencing, 'objectives'), 'primaryObjective');
  // Else it is satisfied by what the object says of itself, whatever measure stands there (SN 3.10).
  return objective?.attrs['satisfiedByMeasure'] === 'true'
    ? fold(textOf(child(objective, 'minNormalizedMeasure')))
    : '';
}

/** Its rules in their own words, what they do and when, and the objectives that it has beside its own or shares. */
function sequencingWords(sequencing: Sequencing): string[] {
  return [
    ...['sequencingRules', 'rollupRules'].flatMap((name) => rules(partOf(sequencing, name))),
    ...elements(partOf(sequencing, 'objectives')).flatMap(objective),
  ];
}

function rules(element: XmlElement | undefined): string[] {
  return (element ? descendants(element) : [])
    .filter((e) => /Rule$/.test(e.name))
    .map((rule) => {
      const action = descendants(rule).find((e) => /Action$/.test(e.name))?.attrs['action'] ?? '';
      const conditions = descendants(rule)
        .filter((e) => /Condition$/.test(e.name))
        .map((e) => `${e.attrs['operator'] === 'not' ? 'not ' : ''}${e.attrs['condition'] ?? ''}`);
      return `${rule.name}: ${action} if ${conditions.join(', ')}`;
    });
}

function objective(element: XmlElement): string[] {
  const name = element.attrs['objectiveID'] ?? 'its own';
  const share = fold(textOf(child(element, 'minNormalizedMeasure')));
  const shared = elements(element, 'mapInfo').map(
    (map) => `objective ${name}: shared as ${map.attrs['targetObjectiveID'] ?? ''}`,
  );
  // What the item itself is to reach is a setting of its own.
  const alone = is(element, 'objective') && shared.length === 0;
  return alone ? [`objective ${name}${share === '' ? '' : `: at least ${share}`}`] : shared;
}

/** How one goes through it, in words, where that is not free. */
export function wayThrough(sequencing: Sequencing): string[] {
  const mode = partOf(sequencing, 'controlMode')?.attrs ?? {};
  return [
    mode['choice'] === 'false' ? 'its parts can not be chosen' : '',
    mode['forwardOnly'] === 'true' ? 'there is no way back' : '',
    ...sequencingWords(sequencing),
  ].filter((words) => words !== '');
}
