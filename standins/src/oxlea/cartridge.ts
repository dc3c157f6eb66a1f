import { createWriteStream } from 'node:fs';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { escapeHtml as esc } from '../shared/http.ts';
import { cutDown, type OAsk, type OBook, type OPart } from './model.ts';
import { asHtml } from './text.ts';

const HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n';

/** Oxlea's standard export: a Common Cartridge 1.3 of the readings, handouts, links and talks. Tests stay behind. */
export async function writeCartridge(book: OBook, library: string, ask: OAsk, target: string): Promise<void> {
  const zip = new yazl.ZipFile();
  const resources: string[] = [];
  const lesson = (parts: readonly OPart[]): string => parts.map((p) => add(p)).join('');
  const add = (part: OPart): string => {
    const id = `ox-${part.key}`;
    const file = (path: string, body: string) => zip.addBuffer(Buffer.from(body), path);
    switch (part.sort) {
      case 'test':
      case 'line':
        return '';
      case 'reading':
      case 'piece': {
        const path = `read/${part.key}.html`;
        file(
          path,
          `<!DOCTYPE html><html><head><meta charset="utf-8"><title>${esc(part.name)}</title></head><body>${htmlOf(part)}</body></html>`,
        );
        resources.push(
          `<resource identifier="${id}" type="webcontent" href="${path}"><file href="${path}"/></resource>`,
        );
        break;
      }
      case 'handout': {
        const path = `library/${part.file}`;
        zip.addFile(join(library, part.file), path);
        const href = esc(encodeURI(path));
        resources.push(
          `<resource identifier="${id}" type="webcontent" href="${href}"><file href="${href}"/></resource>`,
        );
        break;
      }
      case 'web': {
        const path = `web/${part.key}.xml`;
        file(
          path,
          `${HEAD}<webLink xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imswl_v1p3"><title>${esc(part.name)}</title><url href="${esc(part.to)}"/></webLink>`,
        );
        resources.push(`<resource identifier="${id}" type="imswl_xmlv1p3"><file href="${path}"/></resource>`);
        break;
      }
      case 'talk': {
        const path = `talk/${part.key}.xml`;
        file(
          path,
          `${HEAD}<topic xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imsdt_v1p3"><title>${esc(part.name)}</title><text texttype="text/html">${esc(htmlOf(part))}</text></topic>`,
        );
        resources.push(`<resource identifier="${id}" type="imsdt_xmlv1p3"><file href="${path}"/></resource>`);
        break;
      }
    }
    return `<item identifier="i-${part.key}" identifierref="${id}"><title>${esc(part.name)}</title></item>`;
  };
  const outline = cutDown(book, ask)
    .halves.map((half) => {
      const inside = half.lessons.map(
        (l) => `<item identifier="i-${l.key}"><title>${esc(l.name)}</title>${lesson(l.parts)}</item>`,
      );
      return `<item identifier="i-${half.key}"><title>${esc(half.name)}</title>${inside.join('')}</item>`;
    })
    .join('');
  zip.addBuffer(
    Buffer.from(`${HEAD}<manifest identifier="oxlea-${book.id}" xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1" xmlns:m="http://ltsc.ieee.org/xsd/imsccv1p3/LOM/manifest">
<metadata><schema>IMS Common Cartridge</schema><schemaversion>1.3.0</schemaversion><m:lom><m:general><m:title><m:string>${esc(book.name)}</m:string></m:title><m:description><m:string>${esc(book.about)}</m:string></m:description></m:general></m:lom></metadata>
<organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="root">${outline}</item></organization></organizations>
<resources>${resources.join('')}</resources></manifest>`),
    'imsmanifest.xml',
  );
  zip.end();
  const half = `${target}.part`;
  await pipeline(zip.outputStream, createWriteStream(half));
  await rename(half, target);
}

function htmlOf({ text, form }: { text: string; form?: 'light' | 'html' | undefined }): string {
  return form === 'html' ? text : asHtml(text);
}
