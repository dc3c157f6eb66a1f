import { decodePercent, problem, Refusal, resolvePath } from '../model/index.ts';
import { child, elements, named, parseXml, type XmlElement } from '../markup/index.ts';
import type { PlannedEntry } from './format.ts';

/**
 * What is written from the model is held against its standard before it is given: a package with a manifest against Content
 * Packaging (IMS CP 1.2 Information Model 4 and 5, on which cartridges, SCORM and packages of questions are built).
 */

const MANIFEST = 'imsmanifest.xml';

/** What a manifest's parts are, in the order in which they stand. */
const ORDER = ['metadata', 'organizations', 'resources', 'manifest', 'sequencingCollection'];

/** @throws Refusal `output-unsound` where a plan is against the standard of its format: a fault of Treenail, not of the course */
export function refuseUnsound(plan: readonly PlannedEntry[]): void {
  if (plan.length === 0) throw unsound('it would be empty');
  const paths = new Set<string>();
  for (const { path } of plan) {
    if (paths.has(path)) throw unsound(`it would hold ${path} twice`, path);
    paths.add(path);
  }
  const manifest = plan.find((entry) => entry.path === MANIFEST);
  if (!manifest || !('text' in manifest)) return;
  for (const fault of faultsOf(parsed(manifest.text), paths)) throw unsound(fault.what, MANIFEST, fault.line);
}

function parsed(text: string): XmlElement {
  try {
    return parseXml(text, MANIFEST, 4096);
  } catch (error) {
    throw error instanceof Refusal ? unsound('its manifest is no XML', MANIFEST, error.problem.line) : error;
  }
}

function* faultsOf(root: XmlElement, paths: ReadonlySet<string>): Generator<{ what: string; line: number }> {
  const parts = elements(root).map((e) => e.name);
  const places = parts.map((name) => ORDER.indexOf(name)).filter((place) => place >= 0);
  if (places.some((place, i) => place < (places[i - 1] ?? 0))) {
    yield { what: 'the parts of its manifest are out of order', line: root.line };
  }
  for (const name of ['organizations', 'resources']) {
    if (!parts.includes(name)) yield { what: `its manifest has no ${name}`, line: root.line };
  }
  const resources = elements(child(root, 'resources'), 'resource');
  const ids = new Map<string, XmlElement>();
  for (const element of [...resources, ...named(root, 'organization', 'item')]) {
    const id = element.attrs['identifier'] ?? '';
    if (id === '') yield { what: `a ${element.name} has no identifier`, line: element.line };
    const before = ids.get(id);
    if (before) yield { what: `${id} is the name of two parts`, line: element.line };
    ids.set(id, element);
  }
  const known = new Set(resources.map((r) => r.attrs['identifier']));
  for (const element of named(root, 'item', 'dependency', 'variant')) {
    const ref = element.attrs['identifierref'];
    if (ref !== undefined && !known.has(ref)) {
      yield { what: `a ${element.name} leads to ${ref}, which is no resource`, line: element.line };
    }
  }
  const defaults = child(root, 'organizations')?.attrs['default'];
  if (defaults !== undefined && ids.get(defaults)?.name !== 'organization') {
    yield { what: `its outline is to be ${defaults}, which is none`, line: root.line };
  }
  for (const resource of resources) {
    if (resource.attrs['type'] === undefined) yield { what: 'a resource has no type', line: resource.line };
    for (const element of [resource, ...elements(resource, 'file')]) {
      const href = element.attrs['href'];
      if (href === undefined || /^[a-z][a-z0-9+.-]*:/i.test(href)) continue;
      const path = resolvePath('', decodePercent(href.replace(/[?#].*$/, '')));
      if (path === null || !paths.has(path)) {
        yield { what: `its manifest names ${href}, which would not be in it`, line: element.line };
      }
    }
  }
}

function unsound(what: string, file?: string, line?: number): Refusal {
  return new Refusal(
    problem('output-unsound', `The package would be against its standard: ${what}.`, {
      ...(file === undefined ? {} : { file }),
      ...(line === undefined ? {} : { line }),
    }),
  );
}
