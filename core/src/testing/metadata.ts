import { Lom, type Settings } from '../model/index.ts';

/** Of every shape that metadata have. */
export const WHOLE_LOM = Lom.parse({
  general: {
    identifier: [
      { catalog: 'course', entry: 'X 1' },
      { catalog: 'ISBN', entry: '0-00' },
    ],
    title: [{ text: 'Boats' }, { text: 'Bádaí', language: 'ga' }],
    coverage: [[{ text: 'the coast', language: 'en' }]],
    structure: { value: 'hierarchical' },
  },
  lifeCycle: {
    version: [{ text: '2' }],
    status: { value: 'final' },
    contribute: [
      { role: { value: 'author' }, entity: ['BEGIN:VCARD\nFN:Mabli Tarrow\nEND:VCARD'], date: '2026-09-01' },
    ],
  },
  metaMetadata: { metadataSchema: ['LOMv1.0'], language: 'en' },
  technical: {
    format: ['text/html'],
    requirement: [{ orComposite: [{ type: { value: 'browser' }, name: { value: 'any' }, minimumVersion: '1' }] }],
    duration: 'PT1H',
  },
  educational: [
    {
      learningResourceType: [{ value: 'lecture' }],
      context: [{ value: 'school', source: 'ours' }],
      typicalLearningTime: 'P1D',
    },
  ],
  rights: { cost: { value: 'no' } },
  relation: [
    { kind: { value: 'ispartof' }, resource: { identifier: [{ catalog: 'URI', entry: 'https://x.example/' }] } },
  ],
  annotation: [{ entity: 'Jory Penhale', date: '2026-10-01', description: [{ text: 'Good & short' }] }],
  classification: [
    {
      purpose: { value: 'discipline' },
      taxonPath: [{ source: [{ text: 'Ours' }], taxon: [{ id: '5', entry: [{ text: 'Crafts' }] }] }],
    },
  ],
});
export const SMALL_LOM = Lom.parse({
  lifeCycle: { contribute: [{ role: { value: 'editor' }, entity: ['Noor Halvard'] }] },
});

/** What may be set of a course of that title. */
export const courseSettings = (title: string): Settings | null =>
  COURSE_SETTINGS[title.length % COURSE_SETTINGS.length]?.(title) ?? null;

const COURSE_SETTINGS: readonly ((title: string) => Settings | null)[] = [
  () => null,
  () => null,
  (title) => ({
    lom: {
      ...WHOLE_LOM,
      general: { ...WHOLE_LOM.general, title: [{ text: title }, { text: 'Bádaí', language: 'ga' }] },
    },
  }),
  () => ({ lom: SMALL_LOM, fileLom: { 'loose/unused.csv': SMALL_LOM } }),
];
