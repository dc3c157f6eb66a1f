import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileSink } from './file-sink.ts';

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

describe('A file that is written and hashed', () => {
  let folder: string;
  let from: string;
  // Longer than what the thread takes at once, several times over, and no multiple of it.
  const body = Buffer.from(Array.from({ length: 1_400_003 }, (_, i) => (i * 31 + (i >> 8)) & 255));
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-sink-'));
    from = join(folder, 'source.bin');
    await writeFile(from, body);
  });
  afterAll(() => rm(folder, { recursive: true }));

  const acts = fc.array(
    fc.oneof(
      fc.record({ act: fc.constant('write' as const), bytes: fc.uint8Array({ maxLength: 200 }) }),
      fc.record({
        act: fc.constant('copy' as const),
        offset: fc.nat(body.length - 1),
        length: fc.oneof(fc.nat(300), fc.nat(body.length)),
      }),
      fc.record({ act: fc.constant('rewind' as const) }),
    ),
    { maxLength: 8 },
  );

  it('holds what was written and copied, in the order in which it was asked for, awaited or not', async () => {
    let run = 0;
    await fc.assert(
      fc.asyncProperty(acts, async (list) => {
        const path = join(folder, `out-${run++}.bin`);
        const sink = await fileSink(path);
        let expected = Buffer.alloc(0);
        const copies: Promise<void>[] = [];
        for (const act of list) {
          if (act.act === 'rewind') {
            await Promise.all(copies);
            await sink.rewind();
            expected = Buffer.alloc(0);
          } else if (act.act === 'write') {
            await sink.write(act.bytes);
            expected = Buffer.concat([expected, act.bytes]);
          } else {
            const length = Math.min(act.length, body.length - act.offset);
            copies.push(sink.copy(from, act.offset, length));
            expected = Buffer.concat([expected, body.subarray(act.offset, act.offset + length)]);
          }
        }
        await Promise.all(copies);
        const closed = await sink.close();
        expect(closed).toEqual({ size: expected.length, sha256: sha256(expected) });
        expect(sha256(await readFile(path))).toBe(closed.sha256);
      }),
      { numRuns: 40 },
    );
  });

  it('takes more than its ring holds, without losing a byte', async () => {
    const path = join(folder, 'long.bin');
    const sink = await fileSink(path);
    for (let i = 0; i < 13; i++) await sink.write(body);
    const { size, sha256: digest } = await sink.close();
    const written = await readFile(path);
    expect([size, digest]).toEqual([13 * body.length, sha256(written)]);
    expect(written.subarray(-body.length).equals(body)).toBeTrue();
  });

  it('says what can not be copied, to whoever asked and to all who ask after', async () => {
    const sink = await fileSink(join(folder, 'cut.bin'));
    const cut = sink.copy(from, body.length - 10, 20);
    await expectAsync(cut).toBeRejectedWithError(/past the end of the source/);
    await expectAsync(sink.write(Buffer.from('x')).then(() => sink.close())).toBeRejectedWithError(/past the end/);
    await sink.abandon();
    const other = await fileSink(join(folder, 'missing.bin'));
    await expectAsync(other.copy(join(folder, 'nowhere'), 0, 5)).toBeRejectedWithError(/ENOENT/);
    await other.abandon();
  });

  it('lets go of a copy that is under way when it is abandoned', async () => {
    const sink = await fileSink(join(folder, 'left.bin'));
    const copies = Array.from({ length: 20 }, () => sink.copy(from, 0, body.length));
    const ended = expectAsync(Promise.all(copies)).toBeRejectedWithError(/has ended/);
    await sink.abandon();
    await ended;
  });
});
