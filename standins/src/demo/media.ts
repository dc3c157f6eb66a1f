import ICAL from 'ical.js';
import { Mp3Encoder } from '@breezystack/lamejs';
import { Document, HeadingLevel, Packer, Paragraph } from 'docx';
import PDFDocument from 'pdfkit';
import { PNG } from 'pngjs';
import pptxgen from 'pptxgenjs';
import writeExcelFile from 'write-excel-file/node';

/** A repeatable stream of numbers in [0, 1), so that the same demo gives the same pictures. */
export function numbersFrom(seed: string): () => number {
  let h = 2166136261;
  for (const c of seed) h = Math.imul(h ^ c.charCodeAt(0), 16777619);
  return () => {
    h = Math.imul(h ^ (h >>> 15), 2246822507);
    h = Math.imul(h ^ (h >>> 13), 3266489909);
    return ((h ^= h >>> 16) >>> 0) / 2 ** 32;
  };
}

export type Drawing = 'planks' | 'contours' | 'chart';

/** A drawn plate: strakes of a hull, contours of a marsh, or a chart with soundings. */
export function picture(drawing: Drawing, seed: string, width = 480, height = 300): Buffer {
  const png = new PNG({ width, height });
  const random = numbersFrom(seed);
  const phase = random() * 6;
  const bend = 20 + random() * 40;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const [r, g, b] = PAINT[drawing](x, y, width, height, phase, bend, random);
      const at = (y * width + x) * 4;
      png.data[at] = r;
      png.data[at + 1] = g;
      png.data[at + 2] = b;
      png.data[at + 3] = 255;
    }
  }
  return PNG.sync.write(png, { deflateLevel: 9, filterType: 1 });
}

type Paint = (
  x: number,
  y: number,
  w: number,
  h: number,
  phase: number,
  bend: number,
  random: () => number,
) => [number, number, number];

const PAINT: Record<Drawing, Paint> = {
  planks(x, y, w, _h, phase, bend, random) {
    const sheer = y + bend * ((2 * x) / w - 1) ** 2;
    const strake = Math.floor(sheer / 34);
    const within = sheer - strake * 34;
    const grain = Math.sin(sheer * 1.7 + Math.sin(x / 40 + phase + strake) * 3) * 7 + random() * 4;
    if (within < 2.5) return [84, 62, 40];
    if (within > 28 && Math.abs((x + strake * 37) % 64) < 3) return [120, 70, 40];
    const base = 150 + ((strake * 53) % 40);
    return [base + 30 + grain, base + grain, base - 46 + grain];
  },
  contours(x, y, w, h, phase, bend) {
    const dx = x / w - 0.5;
    const dy = y / h - 0.5;
    const level = Math.sin(dx * 7 + phase) * 0.5 + Math.cos(dy * 6 - phase) * 0.5 + Math.sin((dx + dy) * 9) * 0.3;
    const creek = Math.abs(dy - 0.15 * Math.sin(dx * 9 + phase)) < 0.02 + bend / 4000;
    if (creek) return [142, 170, 178];
    const band = Math.abs((level * 8) % 1);
    if (band < 0.08) return [96, 104, 70];
    const tone = Math.round(level * 18);
    return [188 + tone, 194 + tone, 150 + tone];
  },
  chart(x, y, w, h, phase, bend) {
    const coast = h * 0.35 + Math.sin(x / 60 + phase) * 24 + Math.sin(x / 17) * 6;
    if (y < coast) return [222, 205, 160];
    if (y - coast < 2.2) return [70, 70, 70];
    const depth = (y - coast) / (h - coast);
    if (Math.abs(((depth * 5) % 1) - 0.5) < 0.012) return [110, 140, 170];
    const angle = Math.atan2(y - h * 0.8, x - w * 0.8 + bend);
    if (Math.hypot(x - w * 0.8 + bend, y - h * 0.8) < 38 && Math.abs(Math.sin(angle * 8)) < 0.08) return [150, 70, 110];
    return depth < 0.3 ? [206, 224, 232] : [240, 246, 248];
  },
};

/** The same demo gives the same sheets, whenever it is made. */
const WRITTEN = new Date(Date.UTC(2026, 7, 24, 9));

export function pdf(title: string, paragraphs: readonly string[]): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    const document = new PDFDocument({
      size: 'A4',
      margin: 60,
      info: { Title: title, Author: 'Marrowick College', CreationDate: WRITTEN },
    });
    const parts: Buffer[] = [];
    document.on('data', (part: Buffer) => parts.push(part));
    document.on('end', () => resolve(Buffer.concat(parts)));
    document.on('error', reject);
    document.fontSize(20).text(title).moveDown();
    for (const paragraph of paragraphs) document.fontSize(11).text(paragraph).moveDown(0.6);
    document.addPage().fontSize(11).text('Keep this sheet in the workshop folder.');
    document.end();
  });
}

export function docx(title: string, paragraphs: readonly string[]): Promise<Buffer> {
  const document = new Document({
    creator: 'Marrowick College',
    // Somebody wrote it on a machine of their own.
    lastModifiedBy: 'Elowen Stroud',
    title,
    sections: [
      {
        children: [
          new Paragraph({ text: title, heading: HeadingLevel.HEADING_1 }),
          ...paragraphs.map((text) => new Paragraph({ text })),
        ],
      },
    ],
  });
  return Packer.toBuffer(document);
}

export function xlsx(title: string, rows: readonly (readonly (string | number)[])[]): Promise<Buffer> {
  const data = rows.map((row) =>
    row.map((value) => (typeof value === 'number' ? { value, type: Number } : { value, type: String })),
  );
  return writeExcelFile(data, { sheet: title.slice(0, 30) }).toBuffer();
}

export async function pptx(title: string, points: readonly string[]): Promise<Buffer> {
  const deck = new pptxgen();
  deck.title = title;
  deck.author = 'Marrowick College';
  deck.addSlide().addText(title, { x: 0.5, y: 1.5, w: 9, h: 1.2, fontSize: 32, bold: true });
  for (const point of points) deck.addSlide().addText(point, { x: 0.5, y: 1, w: 9, h: 3, fontSize: 20 });
  return (await deck.write({ outputType: 'nodebuffer' })) as Buffer;
}

/** A signal tone with overtones that dies away, `seconds` long. */
function tone(seconds: number, hertz: number, rate: number): Int16Array {
  return Int16Array.from({ length: Math.round(seconds * rate) }, (_, i) => {
    const t = i / rate;
    const swell = Math.exp(-(t % 2) * 1.4);
    return Math.round(
      9000 * swell * (Math.sin(2 * Math.PI * hertz * t) + 0.4 * Math.sin(2 * Math.PI * hertz * 2.76 * t)),
    );
  });
}

export function mp3(seconds: number, hertz: number): Buffer {
  const samples = tone(seconds, hertz, 22050);
  const encoder = new Mp3Encoder(1, 22050, 48);
  const parts: Buffer[] = [];
  for (let i = 0; i < samples.length; i += 1152)
    parts.push(Buffer.from(encoder.encodeBuffer(samples.subarray(i, i + 1152))));
  parts.push(Buffer.from(encoder.flush()));
  return Buffer.concat(parts);
}

/** Uncompressed sound (RIFF WAVE, PCM 16 bit stereo) of about `bytes` bytes: mallet strokes and noise. */
export function wav(bytes: number, seed: string): Buffer {
  const frames = Math.floor((bytes - 44) / 4);
  const out = Buffer.alloc(44 + frames * 4);
  out.write('RIFF', 0, 'latin1');
  out.writeUInt32LE(36 + frames * 4, 4);
  out.write('WAVEfmt ', 8, 'latin1');
  out.writeUInt32LE(16, 16);
  out.writeUInt16LE(1, 20);
  out.writeUInt16LE(2, 22);
  out.writeUInt32LE(44100, 24);
  out.writeUInt32LE(44100 * 4, 28);
  out.writeUInt16LE(4, 32);
  out.writeUInt16LE(16, 34);
  out.write('data', 36, 'latin1');
  out.writeUInt32LE(frames * 4, 40);
  const random = numbersFrom(seed);
  for (let i = 0; i < frames; i++) {
    const t = (i / 44100) % 0.8;
    const stroke = Math.round(12000 * Math.exp(-t * 18) * Math.sin(t * 2200) + (random() - 0.5) * 500);
    out.writeInt16LE(stroke, 44 + i * 4);
    out.writeInt16LE(stroke, 46 + i * 4);
  }
  return out;
}

/** A calendar (RFC 5545), its times by the clock of the college; a day without times is a whole day. */
export function calendar(
  name: string,
  events: readonly { day: string; from?: string; to?: string; title: string }[],
): Buffer {
  const root = new ICAL.Component('vcalendar');
  root.addPropertyWithValue('version', '2.0');
  root.addPropertyWithValue('prodid', '-//Marrowick College//Tides//EN');
  events.forEach(({ day, from, to, title }, i) => {
    const event = new ICAL.Component('vevent');
    event.addPropertyWithValue('uid', `${i + 1}.${name}@marrowick.example`);
    event.addPropertyWithValue('dtstamp', ICAL.Time.fromDateTimeString('2026-09-01T08:00:00Z'));
    const at = (time: string) => ICAL.Time.fromDateTimeString(`${day}T${time}:00`);
    const start = new ICAL.Property('dtstart', event);
    start.setValue(from === undefined ? ICAL.Time.fromDateString(day) : at(from));
    if (from !== undefined) start.setParameter('tzid', 'Europe/London');
    event.addProperty(start);
    if (to !== undefined) {
      const end = new ICAL.Property('dtend', event);
      end.setValue(at(to));
      end.setParameter('tzid', 'Europe/London');
      event.addProperty(end);
    }
    event.addPropertyWithValue('summary', title);
    root.addSubcomponent(event);
  });
  return Buffer.from(`${root.toString()}\r\n`);
}
