import { descendants, type XmlElement } from '../../markup/index.ts';
import type { Area, QuestionParts } from '../../model/index.ts';
import type { Declaration } from './declaration.ts';
import { attributeOf, id, kids, isNamed, nameOf } from './names.ts';

interface HotspotContext {
  resolve: (reference: string) => string | null;
  /** Its points come from its mapping. */
  isMapped: boolean;
  share: (value: number | undefined) => { score?: number };
}

/** Places on a picture: of a `hotspotInteraction` its choices, of a `selectPointInteraction` its mapped areas. */
export function hotspotOf(
  interaction: XmlElement,
  { correct, mapping, areas: mappedAreas }: Declaration,
  { resolve, isMapped, share }: HotspotContext,
): Pick<QuestionParts, 'image' | 'areas'> {
  // What is asked may show pictures too.
  const beside = kids(interaction).filter((e) => !isNamed(e, 'prompt'));
  const picture = beside
    .flatMap((e) => [e, ...descendants(e)])
    .find((e) => ['object', 'img', 'image'].includes(nameOf(e)));
  const file = (picture && (attributeOf(picture, 'data') ?? attributeOf(picture, 'src'))) ?? '';
  const width = Number(picture && attributeOf(picture, 'width'));
  const height = Number(picture && attributeOf(picture, 'height'));
  const numbers = (text: string) =>
    text
      .split(/[\s,]+/)
      .map(Number)
      .filter((n) => Number.isFinite(n));
  const areas = kids(interaction, 'hotspotChoice').map((c): Area => {
    const value = isMapped ? mapping.find((m) => m.key === id(c))?.value : undefined;
    return {
      id: id(c),
      shape: shapeOf(attributeOf(c, 'shape')),
      coords: numbers(attributeOf(c, 'coords') ?? ''),
      correct: correct.includes(id(c)),
      ...(value === undefined || value === 0 ? {} : { score: value }),
    };
  });
  const points = mappedAreas.map((a, i): Area => ({
    id: `area-${i + 1}`,
    shape: shapeOf(a.shape),
    coords: numbers(a.coords),
    correct: a.value > 0,
    ...share(a.value),
  }));
  return {
    image:
      file === ''
        ? null
        : {
            file: resolve(file) ?? file,
            ...(width > 0 ? { width } : {}),
            ...(height > 0 ? { height } : {}),
          },
    areas: areas.length > 0 ? areas : points,
  };
}

function shapeOf(shape: string | undefined): Area['shape'] {
  return shape === 'circle' || shape === 'poly' || shape === 'ellipse' || shape === 'default' ? shape : 'rect';
}
