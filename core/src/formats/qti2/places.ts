import { descendants, escapeXml, fold, textOf, type XmlElement } from '../../markup/index.ts';
import { pointIn, type Area, type RichText } from '../../model/index.ts';
import { attributeOf, id, isNamed, kids, nameOf } from './names.ts';

/** Places on a picture that are put in order, matched or given something: they are numbered, on the picture and in lists. */

export interface Picture {
  /** As the item writes it. */
  file: string;
  width: number | undefined;
  height: number | undefined;
  /** What it is called where it can't be seen. */
  words(): string;
}

/** The picture of an interaction, or of the stage that it stands on; what its choices show is none. */
export function pictureOf(interaction: XmlElement): Picture | null {
  const beside = kids(interaction).filter((e) => !isNamed(e, 'prompt') && !/^gap(Img|Text)$/.test(nameOf(e)));
  const shown = beside
    .flatMap((e) => [e, ...descendants(e)])
    .find((e) => ['object', 'img', 'image'].includes(nameOf(e)));
  const file = (shown && (attributeOf(shown, 'data') ?? attributeOf(shown, 'src'))) ?? '';
  if (!shown || file === '') return null;
  const size = (name: string) => {
    const value = Number(attributeOf(shown, name)?.trim() || Number.NaN);
    return value > 0 ? value : undefined;
  };
  const words = () => fold(textOf(shown)) || (attributeOf(shown, 'alt') ?? '');
  return { file, width: size('width'), height: size('height'), words };
}

export interface Place {
  id: string;
  text: RichText;
  /** Its middle, in pixels of the picture. */
  at: readonly [number, number] | null;
}

/** The places of an interaction by the name of their elements, each called by its number and its label. */
export function placesOf(interaction: XmlElement, name: string): Place[] {
  return kids(interaction, name).map((element, i) => {
    const label = attributeOf(element, 'hotspotLabel')?.trim() ?? '';
    const coords = numbersIn(attributeOf(element, 'coords') ?? '');
    const at = coords.length < 2 ? null : pointIn({ shape: shapeOf(attributeOf(element, 'shape')), coords });
    return {
      id: id(element),
      text: { format: 'html', text: escapeXml(label === '' ? `${i + 1}` : `${i + 1}: ${label}`) },
      at,
    };
  });
}

export function numbersIn(coords: string): number[] {
  return coords
    .split(/[\s,]+/)
    .filter((word) => word !== '')
    .map(Number)
    .filter((n) => Number.isFinite(n));
}

export function shapeOf(shape: string | undefined): Area['shape'] {
  return shape === 'circle' || shape === 'poly' || shape === 'ellipse' || shape === 'default' ? shape : 'rect';
}

/** The picture with the numbers of its places on it; where its size is not known, they are told below it. */
export function numbered(picture: Picture | null, places: readonly Place[]): string {
  if (!picture) return '';
  const { file, width, height } = picture;
  const size = `${width === undefined ? '' : ` width="${width}"`}${height === undefined ? '' : ` height="${height}"`}`;
  const image = `<img src="${escapeXml(file)}" alt="${escapeXml(picture.words())}"${size}>`;
  if (width === undefined || height === undefined) {
    const where = places.flatMap(({ at }, i) => (at ? [`${i + 1} (${at.map(Math.round).join(', ')})`] : []));
    return `<p>${image}</p>${where.length === 0 ? '' : `<p>${where.join(' · ')}</p>`}`;
  }
  const share = (part: number, whole: number) => `${Math.round((1000 * part) / whole) / 10}%`;
  const marks = places.map(({ at }, i) => {
    if (!at) return '';
    const [x, y] = at;
    return ` <strong style="position: absolute; left: ${share(x, width)}; top: ${share(y, height)}; padding: 0 4px; background: #ffffff; color: #000000">${i + 1}</strong>`;
  });
  return `<div style="position: relative; width: ${width}px">${image}${marks.join('')}</div>`;
}
