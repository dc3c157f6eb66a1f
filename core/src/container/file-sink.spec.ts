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
  const body = Buffer.alloc(5_400_003);
  for (let i = 0; i < body.length; i++) body[i] = i * 31 + (i >> 8);
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'treenail-sink-'));
    from = join(folder, 'source.bin');
    await writeFile(from, body);
  });
  afterAll(() => rm(folder, { recursive: true }));

  const range = fc
    .tuple(fc.nat(body.length - 1), fc.oneof(fc.nat(300), fc.nat(body.length)))
    .map(([offset, length]) => ({ offset, length: Math.min(length, body.length - offset) }));
  const acts = fc.array(
    fc.oneof(
      fc.record({ act: fc.constant('write' as const), bytes: fc.uint8Array({ maxLength: 200 }) }),
      fc.record({
        act: fc.constant('copy' as const),
        ranges: fc.array(range, { maxLength: 5 }),
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
            copies.push(sink.copy(from, act.ranges));
            const parts = act.ranges.map(({ offset, length }) => body.subarray(offset, offset + length));
            expected = Buffer.concat([expected, ...parts]);
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
    for (let i = 0; i < 4; i++) await sink.write(body);
    const { size, sha256: digest } = await sink.close();
    const written = await readFile(path);
    expect([size, digest]).toEqual([4 * body.length, sha256(written)]);
    expect(written.subarray(-body.length).equals(body)).toBeTrue();
  });

  it('says what can not be copied, to whoever asked and to all who ask after', async () => {
    const sink = await fileSink(join(folder, 'cut.bin'));
    const cut = sink.copy(from, [{ offset: body.length - 10, length: 20 }]);
    await expectAsync(cut).toBeRejectedWithError(/past the end of the source/);
    await expectAsync(sink.write(Buffer.from('x')).then(() => sink.close())).toBeRejectedWithError(/past the end/);
    await sink.abandon();
    const other = await fileSink(join(folder, 'missing.bin'));
    await expectAsync(other.copy(join(folder, 'nowhere'), [{ offset: 0, length: 5 }])).toBeRejectedWithError(/ENOENT/);
    await other.abandon();
  });

  it('lets go of a copy that is under way when it is abandoned', async () => {
    const sink = await fileSink(join(folder, 'left.bin'));
    const copies = Array.from({ length: 20 }, () => sink.copy(from, [{ offset: 0, length: body.length }]));
    const ended = expectAsync(Promise.all(copies)).toBeRejectedWithError(/has ended/);
    await sink.abandon();
    await ended;
  });
});
