import { Refusal } from '../model/index.ts';
import type { PlannedEntry } from './format.ts';
import { refuseUnsound } from './sound.ts';

describe('What is written', () => {
  const manifest = (inside: string) =>
    `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1">${inside}</manifest>`;
  const OUTLINE =
    '<organizations default="o"><organization identifier="o"><item identifier="i" identifierref="r"/></organization></organizations>';
  const RESOURCES =
    '<resources><resource identifier="r" type="webcontent" href="a%20b.html"><file href="a%20b.html"/></resource></resources>';
  const plan = (text: string, ...paths: string[]): PlannedEntry[] => [
    { path: 'imsmanifest.xml', text },
    ...paths.map((path) => ({ path, copy: path })),
  ];

  function refusal(entries: readonly PlannedEntry[]): string {
    try {
      refuseUnsound(entries);
      return '';
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      expect(error.problem.code).toBe('output-unsound');
      return error.problem.message.replace('The package would be against its standard: ', '');
    }
  }

  it('is let through where it is sound', () => {
    expect(refusal(plan(manifest(OUTLINE + RESOURCES), 'a b.html'))).toBe('');
    expect(refusal([{ path: 'index.html', text: '' }])).toBe('');
  });

  it('is refused where it is against its standard', () => {
    for (const [entries, said] of [
      [[], 'it would be empty.'],
      [plan(manifest(OUTLINE + RESOURCES), 'a b.html', 'a b.html'), 'it would hold a b.html twice.'],
      [plan(manifest(OUTLINE + RESOURCES)), 'its manifest names a%20b.html, which would not be in it.'],
      [plan(manifest(RESOURCES + OUTLINE), 'a b.html'), 'the parts of its manifest are out of order.'],
      [plan(manifest(OUTLINE), 'a b.html'), 'its manifest has no resources.'],
      [
        plan(manifest(OUTLINE.replace('"r"', '"x"') + RESOURCES), 'a b.html'),
        'a item leads to x, which is no resource.',
      ],
      [plan(manifest(OUTLINE.replace('"i"', '"r"') + RESOURCES), 'a b.html'), 'r is the name of two parts.'],
      [
        plan(manifest(OUTLINE.replace('default="o"', 'default="p"') + RESOURCES), 'a b.html'),
        'its outline is to be p, which is none.',
      ],
      [plan(manifest(OUTLINE + RESOURCES.replace(' type="webcontent"', '')), 'a b.html'), 'a resource has no type.'],
      [plan('<manifest><a></manifest>', 'a b.html'), 'its manifest is no XML.'],
    ] as const)
      expect(refusal(entries)).toBe(said);
  });
});
