import { TestBed } from '@angular/core/testing';
import { Refusal, ZipWriter } from '@treenail/core';
import { firstValueFrom } from 'rxjs';
import { BenchService } from './bench.service';

const MANIFEST = `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1"><metadata><schema>IMS Common Cartridge</schema><schemaversion>1.1.0</schemaversion></metadata>
<organizations><organization identifier="o"><item identifier="r"><item identifier="i" identifierref="p"><title>A page</title></item></item></organization></organizations>
<resources><resource identifier="p" type="webcontent" href="a.html"><file href="a.html"/></resource></resources></manifest>`;

async function fileOf(files: Record<string, string>, name = 'x.imscc'): Promise<File> {
  const parts: BlobPart[] = [];
  const writer = new ZipWriter({ write: async (bytes) => void parts.push(new Uint8Array(bytes)) });
  for (const [path, text] of Object.entries(files)) await writer.add(path, new TextEncoder().encode(text));
  await writer.finish();
  return new File(parts, name);
}

describe('The Bench', () => {
  let bench: BenchService;
  beforeEach(() => {
    TestBed.configureTestingModule({ providers: [BenchService] });
    bench = TestBed.inject(BenchService);
  });

  it('reads a dropped cartridge in its worker, previews it and converts it to the other version and back', async () => {
    const file = await fileOf({ 'imsmanifest.xml': MANIFEST, 'a.html': '<p>Words</p>' });
    const opened = await bench.open(file);
    expect([opened.label, opened.inventory.items, opened.targets.map((t) => t.id)]).toEqual([
      'Common Cartridge 1.1',
      1,
      ['cc12', 'cc13', 'thin13', 'scorm12', 'scorm2004', 'cp', 'site'],
    ]);
    const item = opened.course.items[0];
    if (!item) throw new Error('no item');
    const preview = await firstValueFrom(bench.preview(item));
    expect(preview.form === 'page' && preview.html.includes('Words')).toBeTrue();
    const { blob, fileName } = await bench.convert('cc13');
    expect(fileName).toBe('x_cc13.imscc');
    const again = await bench.open(new File([blob], fileName));
    expect([again.label, again.targets.map((t) => t.id)]).toEqual([
      'Common Cartridge 1.3',
      ['cc11', 'cc12', 'thin13', 'scorm12', 'scorm2004', 'cp', 'site'],
    ]);
  });

  it('refuses the wrong file with what to do, and reads the next one', async () => {
    const refusal = await bench.open(new File(['%PDF'], 'x.pdf')).then(
      () => null,
      (error: unknown) => error,
    );
    expect(refusal instanceof Refusal && refusal.problem.code).toBe('not-a-zip');
    expect((await bench.open(await fileOf({ 'imsmanifest.xml': MANIFEST, 'a.html': 'x' }))).inventory.items).toBe(1);
  });
});
