import { readCourse } from './formats/index.ts';
import { holdsQuestions, judge, partsOf, type Question } from './model/index.ts';
import { asiItem, asiPackage, is, lid, rules, str, when } from './testing/other-hands/asi.ts';
import { packageOf, type Files } from './testing/packages.ts';

/** Packages as the standards allow them, made by another hand than that of Treenail's writers. */

async function questionsIn(files: Files): Promise<Question[]> {
  const { course } = await readCourse(await packageOf(files));
  return course.items.flatMap((i) => (holdsQuestions(i) ? i.questions : []));
}

/** What answers earn by the key that was read. */
async function points(item: string, ...answers: string[][]): Promise<(number | null)[]> {
  const [question] = await questionsIn(asiPackage(item));
  if (!question) throw new Error('no question was read');
  expect(question.scoredOtherwise).toBeUndefined();
  return answers.map((values) => judge(question, { values }));
}

describe('QTI 1.2 by another hand is judged as it says', () => {
  it('by a variable of any name', async () => {
    const item = asiItem('q', {
      presentation: lid('Single', 'Ebb', 'Flood', 'Slack'),
      processing: rules('que_score', when(is('B'), 'que_score', 'Set', 4)),
    });
    expect(await points(item, ['A'], ['B'], ['C'], [])).toEqual([0, 4, 0, 0]);
  });

  it('where wrong choices take away', async () => {
    const item = asiItem('q', {
      presentation: lid('Multiple', 'Oak', 'Larch', 'Balsa'),
      processing: rules(
        'SCORE',
        when(is('A'), 'SCORE', 'Add', 2),
        when(is('B'), 'SCORE', 'Add', 1),
        when(is('C'), 'SCORE', 'Subtract', 2),
      ),
    });
    expect(await points(item, ['A', 'B'], ['A'], ['A', 'C'], ['C'], [])).toEqual([3, 2, 0, -2, 0]);
  });

  it('where something is not to be chosen', async () => {
    const item = asiItem('q', {
      presentation: lid('Multiple', 'Oak', 'Larch', 'Balsa'),
      processing: rules('SCORE', when(`${is('A')}${is('B')}<not>${is('C')}</not>`, 'SCORE', 'Set', 3, 'No')),
    });
    expect(await points(item, ['A', 'B'], ['A', 'B', 'C'], ['A'], ['C'])).toEqual([3, 0, 0, 0]);
  });

  it('where every answer of a list is right', async () => {
    const item = asiItem('q', {
      presentation: str,
      processing: rules('SCORE', when('<varsubset respident="R">bowline,sheet bend</varsubset>', 'SCORE', 'Set', 1)),
    });
    expect(await points(item, ['bowline'], ['Sheet Bend'], ['granny'])).toEqual([1, 1, 0]);
  });

  it('in all its blocks', async () => {
    const item = asiItem('q', {
      presentation: lid('Single', 'Ebb', 'Flood', 'Slack'),
      processing: rules('SCORE', when(is('A'), 'SCORE', 'Add', 1)) + rules('SCORE', when(is('B'), 'SCORE', 'Add', 2)),
    });
    expect(await points(item, ['A'], ['B'], ['C'])).toEqual([1, 2, 0]);
  });

  it('with the first rule that holds, where it does not go on', async () => {
    const item = asiItem('q', {
      presentation: str,
      processing: rules(
        'SCORE',
        when('<varequal respident="R" case="Yes">Tide</varequal>', 'SCORE', 'Set', 2, 'No'),
        when('<varequal respident="R">tide</varequal>', 'SCORE', 'Set', 1, 'No'),
      ),
    });
    expect(await points(item, ['Tide'], ['tide'], ['TIDE'], ['ebb'])).toEqual([2, 1, 1, 0]);
  });

  it('and where the key can not say it, the answer that shows it is told', async () => {
    const item = asiItem('q', {
      presentation: lid('Multiple', 'Oak', 'Larch', 'Balsa'),
      // Either of two, but not both.
      processing: rules(
        'SCORE',
        when(`<or>${is('A')}${is('B')}</or><not><and>${is('A')}${is('B')}</and></not>`, 'SCORE', 'Set', 1, 'No'),
      ),
    });
    const [question] = await questionsIn(asiPackage(item));
    expect(question?.scoredOtherwise).toBeDefined();
    const notes = (await readCourse(await packageOf(asiPackage(item)))).course;
    expect(notes.items.length).toBe(1);
  });

  it('keeps what is emphasised, heard and seen, and tells what else is material', async () => {
    const material =
      '<material><matemtext>Listen</matemtext><matbreak/><mataudio uri="bell.ogg" audiotype="audio/ogg"/><matvideo uri="tide.webm"/></material><material_ref linkrefid="elsewhere"/>';
    const item = asiItem('q', {
      presentation: material + lid('Single', 'Ebb', 'Flood'),
      processing: rules('SCORE', when(is('A'), 'SCORE', 'Set', 1)),
      more: '<rubric view="Candidate"><material><mattext>Read twice.</mattext></material></rubric>',
    });
    const { course } = await readCourse(await packageOf(asiPackage(item)));
    const bank = course.items[0];
    const prompt = bank?.kind === 'bank' ? (bank.questions[0]?.prompt.text ?? '') : '';
    for (const part of [
      '<em>Listen</em>',
      '<br>',
      '<audio controls src="bell.ogg">',
      '<video controls src="tide.webm">',
    ])
      expect(prompt).toContain(part);
    expect(bank?.settings.unread?.map((u) => u.name)).toEqual(
      jasmine.arrayContaining(['material_ref', 'rubric', 'mataudio@audiotype']),
    );
  });

  it('marks the place of a picture that its key names by its corners', async () => {
    const item = asiItem('q', {
      presentation: `<response_xy ident="R" rcardinality="Single"><render_hotspot><material><matimage uri="hull.png" width="100" height="80"/></material><response_label ident="bow" rarea="Rectangle">0,0,20,20</response_label><response_label ident="stern" rarea="Rectangle">80,0,100,20</response_label></render_hotspot></response_xy>`,
      processing: rules(
        'SCORE',
        when('<varinside respident="R" areatype="Rectangle">80,0,100,20</varinside>', 'SCORE', 'Set', 1),
      ),
    });
    const [question] = await questionsIn({ ...asiPackage(item), 'yard/hull.png': 'P' });
    const { areas, image } = question ? partsOf(question) : { areas: [], image: null };
    expect(areas.map((a) => [a.id, a.correct])).toEqual([
      ['bow', false],
      ['stern', true],
    ]);
    expect(image?.file).toBe('yard/hull.png');
  });
});
