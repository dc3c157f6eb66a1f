import type { Package } from '../../container/index.ts';
import { xml } from '../../markup/index.ts';
import {
  Refusal,
  drawsOf,
  filesOf,
  holdsQuestions,
  mapTexts,
  partsOf,
  problem,
  singleQuestions,
  titlesIn,
  type Course,
  type Question,
  type RichText,
} from '../../model/index.ts';
import { goesOnExchanged, goesOnWhole, type Format, type PlannedEntry, type Target } from '../format.ts';
import { DECLARATION, courseLom, resourceXml } from '../imscp/write.ts';
import { MANIFEST, hasManifest, readManifest } from '../imscp/manifest.ts';
import { WIDE, writeQti } from '../qti12/write.ts';
import { QTI_VERSIONS, itemType, testType, type QtiVersion } from '../qti2/names.ts';
import { asIdentifier } from '../qti2/names.ts';
import { xhtmlWith } from '../qti2/html.ts';
import { writeItem } from '../qti2/write.ts';
import { writeTest, type Draw } from '../qti2/write-test.ts';
import { movedTexts } from '../references.ts';
import { writeBy } from '../table.ts';
import { bareQuestions } from './bare.ts';
import { QTI12_PROFILE, QTI21_PROFILE, QTI22_PROFILE, QTI30_PROFILE, QTI_KINDS, type QuestionItem } from './kinds.ts';
import { readQtiPackage } from './read.ts';
import { MANIFESTS, planReversion } from './reversion.ts';
import { isOfQuestions, qtiVersionOf } from './resources.ts';

const target = (id: string, version: string, profile: Target['profile']): Target => ({
  id,
  label: `QTI ${version}`,
  version,
  passthrough: (origin) => {
    if (origin.format !== 'qti') return null;
    if (origin.version === version) return 'everything';
    return origin.alsoAs?.includes(version) === true ? 'exchanged' : null;
  },
  extension: 'zip',
  profile,
});

/** Packages of questions: QTI 1.2, 2.1, 2.2 and 3.0. */
export const qti: Format = {
  id: 'qti',
  label: (version) => `QTI ${version}`,
  rank: 'particular',
  countsUnread: true,
  unpacker: bareQuestions,
  accepts: (course) => course.items.some(holdsQuestions),
  targets: [
    target('qti12', '1.2', QTI12_PROFILE),
    target('qti21', '2.1', QTI21_PROFILE),
    target('qti22', '2.2', QTI22_PROFILE),
    target('qti30', '3.0', QTI30_PROFILE),
  ],
  async detect(pkg) {
    if (!hasManifest(pkg)) return null;
    const { root } = await readManifest(pkg);
    return isOfQuestions(root) ? qtiVersionOf(root) : null;
  },
  read: readQtiPackage,
  async plan(course, to, source) {
    if (goesOnWhole(course, to)) return asItIs(source);
    const later = QTI_VERSIONS.find((v) => v === to.version);
    if (later && goesOnExchanged(course, to)) return planReversion(source, later);
    if (questionItems(course).length === 0) {
      throw new Refusal(problem('nothing-to-write', `There are no questions in “${course.title}”.`));
    }
    return later ? planLater(course, later) : planAsi(course);
  },
};

export function asItIs(source: Package): PlannedEntry[] {
  return [...source.entries.keys()].map((path) => ({ path, copy: path }));
}

/** Quizzes and banks, each called what the outline called it. */
function questionItems(course: Course): QuestionItem[] {
  const titleOf = titlesIn(course);
  return course.items.flatMap((item) => writeBy(QTI_KINDS, item, titleOf) ?? []);
}

function imageOf(question: Question): string[] {
  return singleQuestions(question).flatMap((q) => partsOf(q).image?.file ?? []);
}

/** Files that the questions show, in the places they had. */
function filesUsed(course: Course, items: readonly QuestionItem[]): string[] {
  const there = new Set(course.files.map((f) => f.path));
  const used = items.flatMap((item) => [
    ...filesOf(item).filter((f) => f !== item.definitionPath),
    ...item.questions.flatMap((q) => [...q.files, ...imageOf(q)]),
  ]);
  return [...new Set(used)].filter((path) => there.has(path));
}

function manifest(
  course: Course,
  schema: string,
  schemaVersion: string,
  namespace: string,
  resources: readonly string[],
): PlannedEntry {
  const text =
    DECLARATION +
    xml(
      'manifest',
      { identifier: 'questions', xmlns: namespace },
      xml('metadata', {}, xml('schema', {}, schema), xml('schemaversion', {}, schemaVersion), courseLom(course)),
      xml('organizations', {}),
      xml('resources', {}, ...resources),
    );
  return { path: MANIFEST, text };
}

function planAsi(course: Course): PlannedEntry[] {
  const items = questionItems(course);
  const files = filesUsed(course, items);
  const entries: PlannedEntry[] = [];
  const resources = items.map((item) => {
    const path = `qti/${asIdentifier(item.id)}.xml`;
    const rewrite = movedTexts(course, item)(path);
    const moved = (_part: string, text: RichText) =>
      text.format === 'html' ? { ...text, text: rewrite(text.text) } : text;
    entries.push({ path, make: async () => writeQti(mapTexts(item, moved), WIDE) });
    return resourceXml({ id: `r_${asIdentifier(item.id)}`, type: 'imsqti_xmlv1p2', href: path, files: [path] });
  });
  return [
    manifest(course, 'IMS Content', '1.1.4', 'http://www.imsglobal.org/xsd/imscp_v1p1', [
      ...resources,
      ...fileResources(files),
    ]),
    ...entries,
    ...files.map((path) => ({ path, copy: path })),
  ];
}

function fileResources(files: readonly string[]): string[] {
  return files.map((path, i) => resourceXml({ id: `file_${i + 1}`, type: 'webcontent', href: path, files: [path] }));
}

function planLater(course: Course, version: QtiVersion): PlannedEntry[] {
  const items = questionItems(course);
  const files = filesUsed(course, items);
  const entries: PlannedEntry[] = [];
  const resources: string[] = [];
  const taken = new Set<string>();
  const places = new Map(
    items.map((item) => [item, freePath(item.kind === 'quiz' ? 'tests' : 'banks', item.id, taken)]),
  );
  const refsOf = new Map<QuestionItem, { id: string; href: string; resource: string }[]>();
  for (const item of items) {
    const rewrite = movedTexts(course, item);
    const refs = item.questions
      .filter((q) => q.type !== 'foreign')
      .map((question) => {
        const path = freePath('items', question.id, taken);
        const make = async () => writeItem(question, version, xhtmlWith(rewrite(path)));
        entries.push({ path, make });
        const id = `r_${path.slice('items/'.length, -'.xml'.length)}`;
        const shown = [...question.files, ...imageOf(question)].filter((f) => files.includes(f));
        resources.push(resourceXml({ id, type: itemType(version), href: path, files: [path, ...new Set(shown)] }));
        return { id: question.id, href: `../${path}`, resource: id };
      });
    refsOf.set(item, refs);
  }
  for (const [item, path] of places) {
    const refs = refsOf.get(item) ?? [];
    const draws = drawsOf(item).map(({ bank: id, number }): Draw & { needs: string[] } => {
      const bank = items.find((i) => i.kind === 'bank' && i.id === id);
      const place = (bank && places.get(bank)) ?? `banks/${asIdentifier(id)}.xml`;
      const drawn = (bank && refsOf.get(bank)) ?? [];
      const needs = bank ? [resourceOf(bank), ...drawn.map((r) => r.resource)] : [];
      return { bank: id, title: bank?.title ?? id, number, href: `../${place}`, refs: drawn, needs };
    });
    const rewrite = movedTexts(course, item);
    entries.push({ path, make: async () => writeTest(item, version, refs, draws, xhtmlWith(rewrite(path))) });
    resources.push(
      resourceXml({
        id: resourceOf(item),
        type: item.kind === 'quiz' ? testType(version) : testType(version).replace('test', 'section'),
        href: path,
        files: [path],
        dependencies: [...new Set([...refs.map((r) => r.resource), ...draws.flatMap((d) => d.needs)])],
      }),
    );
  }
  const { schema, version: schemaVersion, namespace } = MANIFESTS[version];
  return [
    manifest(course, schema, schemaVersion, namespace, resources),
    ...entries,
    ...files.map((path) => ({ path, copy: path })),
  ];
}

function resourceOf({ kind, id }: QuestionItem): string {
  return `r_${kind}_${asIdentifier(id)}`;
}

function freePath(folder: string, id: string, taken: Set<string>): string {
  const name = asIdentifier(id).slice(0, 80);
  let path = `${folder}/${name}.xml`;
  for (let n = 2; taken.has(path); n++) path = `${folder}/${name}-${n}.xml`;
  taken.add(path);
  return path;
}
