import type { ItemOf, Question, QuestionType, RichText } from '../../model/index.ts';
import { escapeXml, xml } from '../../markup/index.ts';

/** Writes a quiz or a bank as QTI 1.2.1 in the cartridge profile; the reverse of `read.ts`. */
export function writeQti(item: ItemOf<'quiz'> | ItemOf<'bank'>): string {
  const questions = item.questions.filter((q) => q.type !== 'foreign').map(writeQuestion);
  const body =
    item.kind === 'quiz'
      ? xml(
          'assessment',
          { ident: `${item.id}_assessment`, title: item.title },
          quizMetadata(item),
          typeof item.settings.instructions === 'string'
            ? xml('rubric', {}, material({ format: 'html', text: item.settings.instructions }))
            : '',
          xml('section', { ident: 'root_section' }, ...questions),
        )
      : xml('objectbank', { ident: `${item.id}_bank` }, ...questions);
  return (
    '<?xml version="1.0" encoding="UTF-8"?>\n' +
    xml('questestinterop', { xmlns: 'http://www.imsglobal.org/xsd/ims_qtiasiv1p2' }, body)
  );
}

function field(label: string, entry: string | number): string {
  return xml('qtimetadatafield', {}, xml('fieldlabel', {}, label), xml('fieldentry', {}, escapeXml(String(entry))));
}

function quizMetadata(item: ItemOf<'quiz'>): string {
  const { attempts, timeLimit } = item.settings;
  return xml(
    'qtimetadata',
    {},
    field('cc_profile', 'cc.exam.v0p1'),
    field('qmd_assessmenttype', 'Examination'),
    field('qmd_scoretype', 'Percentage'),
    typeof attempts === 'number' || typeof attempts === 'string' ? field('cc_maxattempts', attempts) : '',
    typeof timeLimit === 'number' ? field('qmd_timelimit', timeLimit) : '',
  );
}

const PROFILES: Record<Exclude<QuestionType, 'foreign'>, string> = {
  choice: 'cc.multiple_choice.v0p1',
  'multiple response': 'cc.multiple_response.v0p1',
  'true/false': 'cc.true_false.v0p1',
  'short answer': 'cc.fib.v0p1',
  pattern: 'cc.pattern_match.v0p1',
  essay: 'cc.essay.v0p1',
};

function material(text: RichText): string {
  const type = text.format === 'html' ? 'text/html' : 'text/plain';
  return xml('material', {}, xml('mattext', { texttype: type }, escapeXml(text.text)));
}

function writeQuestion(q: Question): string {
  if (q.type === 'foreign') return '';
  const meta = [
    field('cc_profile', PROFILES[q.type]),
    q.points === null ? '' : field('cc_weighting', q.points),
    q.category === undefined ? '' : field('cc_question_category', q.category),
    ...(q.type === 'essay' ? [field('qmd_scoringpermitted', 'Yes'), field('qmd_computerscored', 'No')] : []),
  ];
  return xml(
    'item',
    { ident: q.id, title: q.title },
    xml('itemmetadata', {}, xml('qtimetadata', {}, ...meta)),
    xml('presentation', {}, material(q.prompt), response(q)),
    processing(q),
    ...feedbacks(q),
  );
}

function response(q: Question): string {
  const cardinality = q.type === 'multiple response' ? 'Multiple' : 'Single';
  if (q.choices.length === 0) {
    return xml('response_str', { ident: 'response', rcardinality: 'Single' }, xml('render_fib', { fibtype: 'String' }));
  }
  const labels = q.choices.map((c) => xml('response_label', { ident: c.id }, material(c.text)));
  return xml('response_lid', { ident: 'response', rcardinality: cardinality }, xml('render_choice', {}, ...labels));
}

function condition(test: string, score: boolean, shows: string | null, goOn: boolean): string {
  return xml(
    'respcondition',
    { continue: goOn ? 'Yes' : 'No' },
    xml('conditionvar', {}, test),
    score ? xml('setvar', { action: 'Set', varname: 'SCORE' }, '100') : '',
    shows === null ? '' : xml('displayfeedback', { feedbacktype: 'Response', linkrefid: shows }),
  );
}

function equals(text: string, caseSensitive?: boolean, name = 'varequal'): string {
  const flag = caseSensitive === undefined ? undefined : caseSensitive ? 'Yes' : 'No';
  return xml(name, { respident: 'response', case: flag }, escapeXml(text));
}

function processing(q: Question): string {
  const conditions: string[] = [];
  const other = xml('other', {});
  if (q.feedback.general) conditions.push(condition(other, false, 'general_fb', true));
  for (const c of q.choices) if (c.feedback) conditions.push(condition(equals(c.id), false, `${c.id}_fb`, true));
  const correct = q.feedback.correct ? 'correct_fb' : null;
  if (q.type === 'multiple response') {
    const tests = q.choices.map((c) => (c.correct ? equals(c.id) : xml('not', {}, equals(c.id))));
    conditions.push(condition(xml('and', {}, ...tests), true, correct, false));
  } else if (q.choices.length > 0) {
    for (const c of q.choices) if (c.correct) conditions.push(condition(equals(c.id), true, correct, false));
  }
  for (const a of q.answers) {
    const test = equals(a.text, a.caseSensitive, a.match === 'equal' ? 'varequal' : 'varsubstring');
    conditions.push(condition(test, true, correct, false));
  }
  if (q.feedback.incorrect) conditions.push(condition(other, false, 'general_incorrect_fb', true));
  const outcomes = xml(
    'outcomes',
    {},
    xml('decvar', { maxvalue: 100, minvalue: 0, varname: 'SCORE', vartype: 'Decimal' }),
  );
  return xml('resprocessing', {}, outcomes, ...conditions);
}

function feedbacks(q: Question): string[] {
  const plain = (ident: string, text: RichText | undefined) =>
    text ? [xml('itemfeedback', { ident }, xml('flow_mat', {}, material(text)))] : [];
  const held = (ident: 'hint' | 'solution', text: RichText | undefined) =>
    text ? [xml('itemfeedback', { ident }, xml(ident, {}, xml(`${ident}material`, {}, material(text))))] : [];
  return [
    ...plain('general_fb', q.feedback.general),
    ...plain('correct_fb', q.feedback.correct),
    ...plain('general_incorrect_fb', q.feedback.incorrect),
    ...q.choices.flatMap((c) => plain(`${c.id}_fb`, c.feedback)),
    ...held('hint', q.feedback.hint),
    ...held('solution', q.feedback.solution),
  ];
}
