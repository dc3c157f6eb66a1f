import * as z from 'zod';
import { count } from '../words.ts';
import { defineSetting } from './define.ts';

/**
 * Metadata as IEEE 1484.12.1 (LOM) has it, typed and whole: what the title, the description, the keywords, the rights and the
 * code of a course, and the settings of an item, do not say already. Names are the standard's own; a list is what the
 * standard lets occur more than once.
 */

/** Characters as they are. */
export const Text = z.string();
/** The same said in one language or several. */
export const Words = z.array(z.strictObject({ text: z.string(), language: z.string().optional() }));
/** A value of a vocabulary, and of which; `LOMv1.0` where nothing else is said. */
export const Term = z.strictObject({ value: z.string(), source: z.string().optional() });
/** A date of ISO 8601. */
export const DateText = z.string().brand<'date'>();
/** A duration of ISO 8601. */
export const DurationText = z.string().brand<'duration'>();

const Identifier = z.strictObject({ catalog: Text.optional(), entry: Text.optional() });
const Contribute = z.strictObject({
  role: Term.optional(),
  /** vCards (RFC 2426). */
  entity: z.array(Text).optional(),
  date: DateText.optional(),
});
const Taxon = z.strictObject({ id: Text.optional(), entry: Words.optional() });

export const Lom = z.strictObject({
  general: z
    .strictObject({
      identifier: z.array(Identifier).optional(),
      title: Words.optional(),
      language: z.array(Text).optional(),
      description: z.array(Words).optional(),
      keyword: z.array(Words).optional(),
      coverage: z.array(Words).optional(),
      structure: Term.optional(),
      aggregationLevel: Term.optional(),
    })
    .optional(),
  lifeCycle: z
    .strictObject({
      version: Words.optional(),
      status: Term.optional(),
      contribute: z.array(Contribute).optional(),
    })
    .optional(),
  metaMetadata: z
    .strictObject({
      identifier: z.array(Identifier).optional(),
      contribute: z.array(Contribute).optional(),
      metadataSchema: z.array(Text).optional(),
      language: Text.optional(),
    })
    .optional(),
  technical: z
    .strictObject({
      format: z.array(Text).optional(),
      size: Text.optional(),
      location: z.array(Text).optional(),
      requirement: z
        .array(
          z.strictObject({
            orComposite: z
              .array(
                z.strictObject({
                  type: Term.optional(),
                  name: Term.optional(),
                  minimumVersion: Text.optional(),
                  maximumVersion: Text.optional(),
                }),
              )
              .optional(),
          }),
        )
        .optional(),
      installationRemarks: Words.optional(),
      otherPlatformRequirements: Words.optional(),
      duration: DurationText.optional(),
    })
    .optional(),
  educational: z
    .array(
      z.strictObject({
        interactivityType: Term.optional(),
        learningResourceType: z.array(Term).optional(),
        interactivityLevel: Term.optional(),
        semanticDensity: Term.optional(),
        intendedEndUserRole: z.array(Term).optional(),
        context: z.array(Term).optional(),
        typicalAgeRange: z.array(Words).optional(),
        difficulty: Term.optional(),
        typicalLearningTime: DurationText.optional(),
        description: z.array(Words).optional(),
        language: z.array(Text).optional(),
      }),
    )
    .optional(),
  rights: z
    .strictObject({
      cost: Term.optional(),
      copyrightAndOtherRestrictions: Term.optional(),
      description: Words.optional(),
    })
    .optional(),
  relation: z
    .array(
      z.strictObject({
        kind: Term.optional(),
        resource: z
          .strictObject({
            identifier: z.array(Identifier).optional(),
            description: z.array(Words).optional(),
          })
          .optional(),
      }),
    )
    .optional(),
  annotation: z
    .array(
      z.strictObject({
        entity: Text.optional(),
        date: DateText.optional(),
        description: Words.optional(),
      }),
    )
    .optional(),
  classification: z
    .array(
      z.strictObject({
        purpose: Term.optional(),
        taxonPath: z.array(z.strictObject({ source: Words.optional(), taxon: z.array(Taxon).optional() })).optional(),
        description: Words.optional(),
        keyword: z.array(Words).optional(),
      }),
    )
    .optional(),
});
export type Lom = z.infer<typeof Lom>;

const first = (words: z.infer<typeof Words> | undefined) => words?.[0]?.text ?? '';

/** The name on a vCard, or what stands there instead of one. */
function nameOn(card: string): string {
  return /^FN(?:;[^:\r\n]*)?:(.*)$/m.exec(card)?.[1]?.trim() ?? card.trim();
}

/** Who made it, under which rights, what it belongs to; of the rest, which parts say something. */
export function lomWords(lom: Lom): string {
  const { general, lifeCycle, technical, educational = [], rights, relation = [], annotation = [] } = lom;
  const languages = [...(general?.language ?? []), ...(general?.title ?? []).map((t) => t.language ?? '')];
  const facts = [
    ...(lifeCycle?.contribute ?? []).map(
      (c) => `${c.role?.value ?? 'by'} ${(c.entity ?? []).map(nameOn).join(' and ')}`,
    ),
    ...(lifeCycle?.version ? [`version ${first(lifeCycle.version)}`] : []),
    ...(lifeCycle?.status ? [lifeCycle.status.value] : []),
    ...(languages.length > 0 ? [`languages ${[...new Set(languages.filter((l) => l !== ''))].join(' ')}`] : []),
    ...(rights?.copyrightAndOtherRestrictions ? [`restrictions ${rights.copyrightAndOtherRestrictions.value}`] : []),
    ...(rights?.cost ? [`cost ${rights.cost.value}`] : []),
    ...(lom.classification ?? []).flatMap(({ purpose, taxonPath = [] }) =>
      taxonPath.map(
        ({ taxon = [] }) =>
          `${purpose?.value ?? 'class'} ${taxon.map((t) => first(t.entry) || (t.id ?? '')).join(' › ')}`,
      ),
    ),
    ...relation.map((r) => `${r.kind?.value ?? 'related to'} ${r.resource?.identifier?.[0]?.entry ?? ''}`.trim()),
    ...educational.flatMap((e) => (e.learningResourceType ?? []).map((t) => t.value)),
    ...(technical ? ['technical requirements'] : []),
    ...(annotation.length > 0 ? [count(annotation.length, 'annotation')] : []),
  ];
  return facts.length > 0 ? facts.join('; ') : Object.keys(lom).join(', ');
}

export const lom = defineSetting({
  label: 'further metadata',
  schema: Lom,
  comparable: (one) => JSON.stringify(Lom.parse(one)),
  words: lomWords,
});

/** By the path of each file that its package says something of. */
export const fileLom = defineSetting({
  label: 'metadata of files',
  schema: z.record(z.string(), Lom),
  // Paths change on the way; what is said of a file stays.
  comparable: (byPath) =>
    Object.values(byPath)
      .map((one) => JSON.stringify(Lom.parse(one)))
      .sort(),
  words: (byPath) => count(Object.keys(byPath).length, 'file'),
});
