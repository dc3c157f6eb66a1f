import fc from 'fast-check';
import assert from 'node:assert/strict';
import { bytesSource } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { openCourse, planPackage, readCourse, targetById, writePackage } from './formats/index.ts';
import { judging } from './formats/play/judging.ts';
import { renderQuiz, type Judged } from './formats/play/quiz.ts';
import { survey } from './inspect/index.ts';
import {
  givenWords,
  holdsQuestions,
  isInside,
  isPointing,
  judge,
  pointIn,
  sampleAnswers,
  type Given,
  type Question,
} from './model/index.ts';
import { courses } from './testing/courses.ts';
import { common } from './testing/made.ts';
import { memorySink, packageOf } from './testing/packages.ts';

/** The same answer to the same question earns the same points before and after, or the difference is declared. */

const options = { numRuns: Number(process.env['TREENAIL_LAW_RUNS'] ?? 30) };

/** What was entered in the controls of a page, by their names. */
function entered(question: Question, given: Given): (name: string) => readonly string[] {
  const at = (name: string) => Number(/-(\d+)$/.exec(name)?.[1] ?? -1);
  if ('gaps' in given) {
    const ids = question.type === 'cloze' ? question.blanks.map((b) => b.id) : [];
    return (name) => [given.gaps[ids[at(name)] ?? ''] ?? ''].filter((value) => value !== '');
  }
  const pairs = given.values.map((pair) => pair.split(' '));
  switch (question.type) {
    case 'matching':
    case 'associate':
      return (name) =>
        pairs.flatMap(([choice, target = '']) => (choice === question.choices[at(name)]?.id ? [target] : []));
    case 'gap match':
      return (name) => pairs.flatMap(([choice = '', gap]) => (gap === question.blanks[at(name)]?.id ? [choice] : []));
    case 'ordering':
      return (name) => {
        const place = given.values.indexOf(question.choices[at(name)]?.id ?? '');
        return place < 0 ? [] : [String(place + 1)];
      };
    case 'hotspot': {
      const { areas } = question;
      if (!isPointing(question)) return () => given.values;
      return () => areas.flatMap((a) => (given.values.includes(a.id) ? [pointIn(a).join(', ')] : []));
    }
    default:
      return () => given.values;
  }
}

describe('The law of points', () => {
  const near = (a: number, b: number) => Math.abs(a - b) < 1e-6 * Math.max(1, Math.abs(a));

  it('holds on pages that are played, for every answer that can be given there', () => {
    const judgeQuestion = judging(isInside);
    fc.assert(
      fc.property(courses, ({ course }) => {
        for (const question of course.items.flatMap((i) => (i.kind === 'quiz' ? i.questions : []))) {
          if (question.type === 'several parts') continue;
          const { key } = renderQuiz({ ...common('z'), kind: 'quiz', questions: [question] });
          const [judged] = key as [Judged];
          for (const given of sampleAnswers(question)) {
            const expected = judge(question, given);
            if (expected === null) continue;
            const valuesOf = entered(question, given);
            // A list takes one.
            if (judged.parts.some((p) => /-\d+$/.test(p.name) && valuesOf(p.name).length > 1)) continue;
            const { score } = judgeQuestion(judged, valuesOf);
            assert.ok(
              near(score, expected),
              `${question.type}: ${givenWords(question, given)} earns ${score}, not ${expected}`,
            );
          }
        }
      }),
      options,
    );
    expect().nothing();
  });

  for (const id of ['cc11', 'cc13', 'qti12', 'qti21', 'qti22', 'qti30']) {
    it(`holds in ${id}: what is written is judged there as its key is read`, async () => {
      await fc.assert(
        fc.asyncProperty(courses, async ({ course, bodies }) => {
          fc.pre(course.items.some(holdsQuestions));
          const { format, target } = targetById(id);
          const source = await packageOf(bodies);
          const sent = (await survey(source, course, { engine: nodeEngine })).course;
          const sink = memorySink();
          await writePackage(target, await planPackage(format, sent, target, source), source, sink, {
            engine: nodeEngine,
          });
          const { course: read } = await readCourse(
            await openCourse(bytesSource(sink.bytes()), { engine: nodeEngine }),
          );
          const unlike = read.items
            .flatMap((i) => (holdsQuestions(i) ? i.questions : []))
            .flatMap((q) => (q.scoredOtherwise ? [{ type: q.type, ...q.scoredOtherwise }] : []));
          assert.deepEqual(unlike, []);
        }),
        options,
      );
      expect().nothing();
    });
  }
});
