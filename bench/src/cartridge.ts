import { randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';

/** What a generated cartridge is made of. */
export interface Shape {
  /** Outline items; nine in ten are pages of about 13 kB, the rest web links. */
  items: number;
  /**
   * Bytes of the finished package, about: filled up with media that do not compress, half of them stored (films), half
   * deflated all the same (pictures), as exporters do.
   */
  bytes: number;
  /** Files beside those of the items. */
  extraFiles?: number;
}

/** What an item takes in the zip, about. */
const PAGE_PACKED = 3900;
const WORDS = 'plank strake rove rivet frame keel stem batten clench caulk oakum pitch larch oak bronze spile'.split(
  ' ',
);

function prose(seed: number, words: number): string {
  const out: string[] = [];
  for (let i = 0, x = seed + 1; i < words; i++) {
    x = (x * 1103515245 + 12345) & 0x7fffffff;
    out.push(WORDS[x % WORDS.length] ?? '');
  }
  return out.join(' ');
}

/** Writes a Common Cartridge 1.1 by another hand than Treenail's. */
export async function writeCartridge(path: string, { items, bytes, extraFiles = 0 }: Shape): Promise<void> {
  const zip = new yazl.ZipFile();
  const done = pipeline(zip.outputStream, createWriteStream(path));
  const outline: string[] = [];
  const resources: string[] = [];
  const perFolder = 50;
  for (let i = 0; i < items; i++) {
    if (i % perFolder === 0) {
      outline.push(`${i > 0 ? '</item>' : ''}<item identifier="f${i}"><title>Week ${i / perFolder + 1}</title>`);
    }
    outline.push(`<item identifier="i${i}" identifierref="r${i}"><title>Entry ${i}: ${prose(i, 3)}</title></item>`);
    if (i % 10 === 9) {
      resources.push(`<resource identifier="r${i}" type="imswl_xmlv1p1"><file href="l/${i}.xml"/></resource>`);
      zip.addBuffer(
        Buffer.from(
          `<webLink xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imswl_v1p1"><title>Entry ${i}: ${prose(i, 3)}</title><url href="https://x.example/${i}"/></webLink>`,
        ),
        `l/${i}.xml`,
      );
    } else {
      resources.push(
        `<resource identifier="r${i}" type="webcontent" href="p/${i}.html"><file href="p/${i}.html"/></resource>`,
      );
      zip.addBuffer(
        Buffer.from(
          `<html><body><h1>Entry ${i}</h1><p>${prose(i, 2000)}</p><p><a href="${Math.max(0, i - 1)}.html">before</a></p></body></html>`,
        ),
        `p/${i}.html`,
      );
    }
  }
  outline.push('</item>');
  const small = randomBytes(4096);
  for (let i = 0; i < extraFiles; i++)
    zip.addBuffer(small.subarray(0, 64 + (i % 1024)), `x/${i}.bin`, { compress: false });
  const media = 20 * 2 ** 20;
  const noise = randomBytes(media);
  for (let i = 0, left = bytes - items * PAGE_PACKED; left > 0; i++, left -= media) {
    noise.writeUInt32LE(i, 0);
    const path = `m/${i}.${i % 2 === 0 ? 'mp4' : 'jpg'}`;
    zip.addBuffer(Buffer.from(noise.subarray(0, Math.min(media, left))), path, { compress: i % 2 === 1 });
    resources.push(`<resource identifier="m${i}" type="webcontent" href="${path}"><file href="${path}"/></resource>`);
  }
  zip.addBuffer(
    Buffer.from(`<?xml version="1.0" encoding="UTF-8"?>
<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1" xmlns:lom="http://ltsc.ieee.org/xsd/imsccv1p1/LOM/manifest">
<metadata><schema>IMS Common Cartridge</schema><schemaversion>1.1.0</schemaversion><lom:lom><lom:general><lom:title><lom:string>Measured course</lom:string></lom:title></lom:general></lom:lom></metadata>
<organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="root">${outline.join('\n')}</item></organization></organizations>
<resources>${resources.join('\n')}</resources></manifest>`),
    'imsmanifest.xml',
  );
  zip.end();
  await done;
}
