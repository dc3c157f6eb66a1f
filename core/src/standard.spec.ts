import fc from 'fast-check';
import assert from 'node:assert/strict';
import { bytesSource, openPackage } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { planPackage, targetById, writePackage } from './formats/index.ts';
import { survey } from './inspect/index.ts';
import { decodeText } from './markup/index.ts';
import { courses } from './testing/courses.ts';
import { memorySink, packageOf } from './testing/packages.ts';
import { against } from './testing/standard.ts';

const options = { numRuns: Number(process.env['TREENAIL_LAW_RUNS'] ?? 25) };

describe('What is written stands as its standard says', () => {
  for (const id of ['cc11', 'cc12', 'cc13', 'qti12', 'qti21', 'qti22']) {
    it(`in every definition of ${id}`, async () => {
      await fc.assert(
        fc.asyncProperty(courses, async ({ course, bodies }) => {
          const { format, target } = targetById(id);
          fc.pre(format.accepts?.(course) !== false);
          const source = await packageOf(bodies);
          const sent = (await survey(source, course, { engine: nodeEngine })).course;
          const sink = memorySink();
          const plan = await planPackage(format, sent, target, source);
          const ours = plan.filter((entry) => !('copy' in entry)).map((entry) => entry.path);
          await writePackage(target, plan, source, sink, { engine: nodeEngine });
          const pkg = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
          for (const path of ours.filter((p) => /\.xml$/.test(p) && p !== 'imsmanifest.xml'))
            assert.deepEqual(against(decodeText(await pkg.bytes(path)), path), []);
        }),
        options,
      );
      expect().nothing();
    });
  }

  it('or is told', () => {
    const item = (inner: string) =>
      `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1">${inner}</assessmentItem>`;
    expect(
      against(
        item(
          '<itemBody>words<choiceInteraction><simpleChoice/><prompt><p/></prompt></choiceInteraction></itemBody><responseDeclaration/>',
        ),
        'i.xml',
      ).length,
    ).toBe(4);
    expect(
      against(
        item(
          '<responseDeclaration/><itemBody><choiceInteraction><prompt>w</prompt><simpleChoice/></choiceInteraction></itemBody>',
        ),
        'i.xml',
      ),
    ).toEqual([]);
  });
});
