import { createHash } from 'node:crypto';
import yazl from 'yazl';

export type Files = Record<string, string | Buffer>;

export async function zipOf(files: Files): Promise<Buffer> {
  const zip = new yazl.ZipFile();
  for (const [path, body] of Object.entries(files)) zip.addBuffer(Buffer.from(body), path);
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of zip.outputStream) parts.push(part as Buffer);
  return Buffer.concat(parts);
}

/** A small cartridge, made by another hand than Treenail's writer. */
export function cartridge(version: '1.1' | '1.3', more: { resources?: string; files?: Files } = {}): Files {
  const v = `v${version.replace('.', 'p')}`;
  return {
    'imsmanifest.xml': `<?xml version="1.0" encoding="UTF-8"?>
<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscc${v}/imscp_v1p1" xmlns:lom="http://ltsc.ieee.org/xsd/imscc${v}/LOM/manifest">
<metadata><schema>IMS Common Cartridge</schema><schemaversion>${version}.0</schemaversion>
<lom:lom><lom:general><lom:title><lom:string>Ropes and lines</lom:string></lom:title></lom:general></lom:lom></metadata>
<organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="root">
<item identifier="f"><title>First week</title>
<item identifier="i1" identifierref="r1"><title>The anatomy of a rope</title></item>
<item identifier="i2" identifierref="r2"><title>A rope dictionary</title></item></item>
</item></organization></organizations>
<resources><resource identifier="r1" type="webcontent" href="rope.html"><file href="rope.html"/></resource>
<resource identifier="r2" type="imswl_xml${v}"><file href="link.xml"/></resource>${more.resources ?? ''}</resources>
</manifest>`,
    'rope.html': '<html><body><h1>Rope</h1><p>Fibre, yarn, strand, rope.</p></body></html>',
    'link.xml': `<webLink xmlns="http://www.imsglobal.org/xsd/imscc${v}/imswl_${v}"><title>A rope dictionary</title><url href="https://words.marrowick.example/rope"/></webLink>`,
    ...more.files,
  };
}

export function sha256(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}
