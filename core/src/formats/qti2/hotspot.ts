import type { XmlElement } from '../../markup/index.ts';
import type { Area, QuestionParts } from '../../model/index.ts';
import type { Declaration } from './declaration.ts';
import { attributeOf, id, kids } from './names.ts';
import { numbersIn, pictureOf, shapeOf } from './places.ts';

interface HotspotContext {
  resolve: (reference: string) => string | null;
  /** Its points come from its mapping. */
  isMapped: boolean;
  /** What it is put on, where the picture is not its own. */
  stage?: XmlElement | undefined;
  /** What a place gives that is the only one. */
  share: (value: number | undefined) => { score?: number };
}

/** Places on a picture: of a `hotspotInteraction` its choices, of a `selectPointInteraction` its mapped areas. */
export function hotspotOf(
  interaction: XmlElement,
  { correct, mapping, areas: mappedAreas }: Declaration,
  { resolve, isMapped, share, stage }: HotspotContext,
): Pick<QuestionParts, 'image' | 'areas'> {
  const picture = pictureOf(stage ?? interaction);
  const areas = kids(interaction, 'hotspotChoice').map((c): Area => {
    const value = isMapped ? mapping.find((m) => m.key === id(c))?.value : undefined;
    return {
      id: id(c),
      shape: shapeOf(attributeOf(c, 'shape')),
      coords: numbersIn(attributeOf(c, 'coords') ?? ''),
      correct: correct.includes(id(c)),
      ...(value === undefined || value === 0 ? {} : { score: value }),
    };
  });
  const points = mappedAreas.map((a, i): Area => ({
    id: `area-${i + 1}`,
    shape: shapeOf(a.shape),
    coords: numbersIn(a.coords),
    correct: a.value > 0,
    // One place is right as a whole; of several any one may be, or all add up.
    ...(mappedAreas.length > 1 && a.value !== 0 ? { score: a.value } : share(a.value)),
  }));
  return {
    image: picture && {
      file: resolve(picture.file) ?? picture.file,
      ...(picture.width === undefined ? {} : { width: picture.width }),
      ...(picture.height === undefined ? {} : { height: picture.height }),
    },
    areas: areas.length > 0 ? areas : points,
  };
}
