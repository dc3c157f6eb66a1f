import { numbersFrom } from './media.ts';

/**
 * Films of the demo: drawn water under a level horizon, as MP4 (ISO/IEC 14496-12) with frames that are not compressed
 * (ISO/IEC 14496-10, macroblocks of type I_PCM), so that no encoder is needed and any size can be made.
 */
const WIDTH = 320;
const HEIGHT = 192;
/** Macroblocks across and down. */
const ACROSS = WIDTH / 16;
const DOWN = HEIGHT / 16;
const RATE = 12;
/** Frames that differ; a longer film shows them again. */
const DISTINCT = 36;

/** A film of at most `bytes` bytes, of one frame at least. */
export function film(bytes: number, seed: string): Buffer {
  const frames = Array.from({ length: DISTINCT }, (_, n) => sampleOf(n, seed));
  const each = frames[0]?.length ?? 1;
  const count = Math.max(1, Math.floor((bytes - 1000) / (each + 4)));
  const samples = Array.from({ length: count }, (_, n) => frames[n % DISTINCT] ?? Buffer.alloc(0));
  const type = box('ftyp', Buffer.from('isom\0\0\x02\0isomavc1', 'latin1'));
  const head = (offset: number) => moov(samples, offset);
  const offset = type.length + head(0).length + 8;
  const size = samples.reduce((sum, sample) => sum + sample.length, 0);
  const media = Buffer.alloc(8);
  media.writeUInt32BE(size + 8);
  media.write('mdat', 4, 'latin1');
  return Buffer.concat([type, head(offset), media, ...samples]);
}

/** Bits one after another, and Exp-Golomb codes of them (ISO/IEC 14496-10, 9.1). */
class Bits {
  private bits = '';

  u(value: number, length: number): this {
    this.bits += value.toString(2).padStart(length, '0');
    return this;
  }

  ue(value: number): this {
    const code = (value + 1).toString(2);
    this.bits += '0'.repeat(code.length - 1) + code;
    return this;
  }

  /** Up to the next byte, as the trailing bits of a unit or as the alignment before samples. */
  end(trailing: boolean): Buffer {
    if (trailing) this.bits += '1';
    const full = this.bits.padEnd(Math.ceil(this.bits.length / 8) * 8, '0');
    return Buffer.from((full.match(/.{8}/g) ?? []).map((byte) => Number.parseInt(byte, 2)));
  }
}

const SEQUENCE = Buffer.concat([
  Buffer.from([0x67, 66, 0xc0, 40]),
  new Bits()
    .ue(0)
    .ue(0)
    .ue(2)
    .ue(1)
    .u(0, 1)
    .ue(ACROSS - 1)
    .ue(DOWN - 1)
    .u(0b1100, 4)
    .end(true),
]);
const PICTURE = Buffer.concat([
  Buffer.from([0x68]),
  new Bits().ue(0).ue(0).u(0, 2).ue(0).ue(0).ue(0).u(0, 3).ue(0).ue(0).ue(0).u(0b100, 3).end(true),
]);
/** What stands before the samples of a macroblock that is not the first: its type (25, I_PCM) and the alignment. */
const PCM = new Bits().ue(25).end(false);

/** One frame, with its length before it: a picture that needs no other. No byte is below 16, so none has to be escaped. */
function sampleOf(n: number, seed: string): Buffer {
  const random = numbersFrom(`${seed} ${n}`);
  const phase = (n / DISTINCT) * 2 * Math.PI;
  const parts: Buffer[] = [
    Buffer.from([0x65]),
    new Bits()
      .ue(0)
      .ue(7)
      .ue(0)
      .u(0, 4)
      .ue(n % 2)
      .u(0, 2)
      .ue(0)
      .ue(1)
      .ue(25)
      .end(false),
  ];
  for (let row = 0; row < DOWN; row++) {
    for (let column = 0; column < ACROSS; column++) {
      if (row + column > 0) parts.push(PCM);
      const samples = Buffer.alloc(384);
      for (let i = 0; i < 256; i++) {
        samples[i] = shade(column * 16 + (i % 16), row * 16 + Math.floor(i / 16), phase, random());
      }
      const sea = row > DOWN / 2;
      samples.fill(sea ? 140 : 150, 256, 320).fill(sea ? 112 : 118, 320);
      parts.push(samples);
    }
  }
  parts.push(Buffer.from([0x80]));
  const body = Buffer.concat(parts);
  const length = Buffer.alloc(4);
  length.writeUInt32BE(body.length);
  return Buffer.concat([length, body]);
}

/** Brightness of a place: sky above, waves below that come nearer, a sail that goes across, and the grain of film. */
function shade(x: number, y: number, phase: number, grain: number): number {
  const horizon = HEIGHT / 2 + 8;
  const sail = WIDTH * ((phase / (2 * Math.PI) + 0.1) % 1);
  const light = grain * 14;
  if (y < horizon && y > horizon - 40 && Math.abs(x - sail) < (y - horizon + 40) / 3) return Math.round(226 + light);
  if (y < horizon) return Math.round(176 - (horizon - y) / 3 + light);
  const depth = y - horizon + 1;
  return Math.round(96 + 34 * Math.sin(900 / depth + phase * 4 + Math.sin(x / 30 + phase) * 2) + light);
}

function box(type: string, ...parts: readonly Uint8Array[]): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(parts.reduce((sum, part) => sum + part.length, 8));
  head.write(type, 4, 'latin1');
  return Buffer.concat([head, ...parts]);
}

/** Numbers of four bytes each. */
function words(...numbers: readonly number[]): Buffer {
  const out = Buffer.alloc(numbers.length * 4);
  numbers.forEach((number, i) => out.writeUInt32BE(number, i * 4));
  return out;
}

const UNITY = words(0x10000, 0, 0, 0, 0x10000, 0, 0, 0, 0x40000000);

function moov(samples: readonly Buffer[], offset: number): Buffer {
  const count = samples.length;
  const short = (n: number) => Buffer.from([n >> 8, n & 255]);
  const description = box(
    'avc1',
    Buffer.concat([Buffer.alloc(6), short(1), Buffer.alloc(16), short(WIDTH), short(HEIGHT)]),
    words(0x480000, 0x480000, 0),
    short(1),
    Buffer.alloc(32),
    short(24),
    short(0xffff),
    box(
      'avcC',
      Buffer.from([1, 66, 0xc0, 40, 0xff, 0xe1]),
      short(SEQUENCE.length),
      SEQUENCE,
      Buffer.from([1]),
      short(PICTURE.length),
      PICTURE,
    ),
  );
  const table = box(
    'stbl',
    box('stsd', words(0, 1), description),
    box('stts', words(0, 1, count, 1)),
    box('stsc', words(0, 1, 1, count, 1)),
    box('stsz', words(0, 0, count, ...samples.map((sample) => sample.length))),
    box('stco', words(0, 1, offset)),
  );
  const source = box('dinf', box('dref', words(0, 1), box('url ', words(1))));
  const info = box('minf', box('vmhd', words(1, 0, 0)), source, table);
  const handler = box('hdlr', words(0, 0), Buffer.from('vide', 'latin1'), Buffer.alloc(13));
  const media = box('mdia', box('mdhd', words(0, 0, 0, RATE, count, 0x55c40000)), handler, info);
  const track = box(
    'trak',
    box('tkhd', words(3, 0, 0, 1, 0, count, 0, 0, 0, 0), UNITY, words(WIDTH << 16, HEIGHT << 16)),
    media,
  );
  const movie = box('mvhd', words(0, 0, 0, RATE, count, 0x10000, 0x1000000, 0, 0), UNITY, Buffer.alloc(24), words(2));
  return box('moov', movie, track);
}
