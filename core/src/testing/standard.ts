import { elements, insideOf, parseXml, type XmlElement } from '../markup/index.ts';

/**
 * What stands in what, and in which order, made of the standards alone: QTI 2.1 and 2.2 (Assessment, Section and Item
 * Information Model), QTI 1.2.1 (ASI Information Model), Common Cartridge (its profiles of topics, links and tools).
 */

/** Children in their order: `name` once, `name?` at most once, `name*`, `name+`, `a|b*` any of several. */
type Model = string;

const EXPRESSION =
  'baseValue|variable|correct|mapResponse|mapResponsePoint|match|member|stringMatch|substring|equal|gt|gte|lt|lte|and|or|not|sum|isNull|multiple|ordered|null';
const RULE = 'responseCondition|setOutcomeValue|exitResponse';

const QTI2: Readonly<Record<string, Model>> = {
  assessmentItem:
    'responseDeclaration* outcomeDeclaration* templateDeclaration* templateProcessing? assessmentStimulusRef* stylesheet* itemBody? responseProcessing? modalFeedback*',
  responseDeclaration: 'defaultValue? correctResponse? mapping? areaMapping?',
  outcomeDeclaration: 'defaultValue? matchTable|interpolationTable?',
  correctResponse: 'value+',
  defaultValue: 'value+',
  mapping: 'mapEntry+',
  areaMapping: 'areaMapEntry+',
  choiceInteraction: 'prompt? simpleChoice+',
  orderInteraction: 'prompt? simpleChoice+',
  associateInteraction: 'prompt? simpleAssociableChoice+',
  matchInteraction: 'prompt? simpleMatchSet simpleMatchSet',
  simpleMatchSet: 'simpleAssociableChoice*',
  inlineChoiceInteraction: 'inlineChoice+',
  hotspotInteraction: 'prompt? object|img hotspotChoice+',
  selectPointInteraction: 'prompt? object|img',
  extendedTextInteraction: 'prompt?',
  uploadInteraction: 'prompt?',
  sliderInteraction: 'prompt?',
  textEntryInteraction: '',
  hotspotChoice: '',
  responseProcessing: `${RULE}*`,
  responseCondition: 'responseIf responseElseIf* responseElse?',
  responseIf: `${EXPRESSION} ${RULE}*`,
  responseElseIf: `${EXPRESSION} ${RULE}*`,
  responseElse: `${RULE}*`,
  setOutcomeValue: EXPRESSION,
  match: `${EXPRESSION} ${EXPRESSION}`,
  member: `${EXPRESSION} ${EXPRESSION}`,
  stringMatch: `${EXPRESSION} ${EXPRESSION}`,
  substring: `${EXPRESSION} ${EXPRESSION}`,
  equal: `${EXPRESSION} ${EXPRESSION}`,
  gt: `${EXPRESSION} ${EXPRESSION}`,
  gte: `${EXPRESSION} ${EXPRESSION}`,
  lt: `${EXPRESSION} ${EXPRESSION}`,
  lte: `${EXPRESSION} ${EXPRESSION}`,
  and: `${EXPRESSION}+`,
  or: `${EXPRESSION}+`,
  not: EXPRESSION,
  isNull: EXPRESSION,
  assessmentTest: 'outcomeDeclaration* timeLimits? stylesheet* testPart+ outcomeProcessing? testFeedback*',
  testPart:
    'preCondition* branchRule* itemSessionControl? timeLimits? assessmentSection|assessmentSectionRef+ testFeedback*',
  assessmentSection:
    'preCondition* branchRule* itemSessionControl? timeLimits? selection? ordering? rubricBlock* assessmentSection|assessmentSectionRef|assessmentItemRef*',
  assessmentItemRef:
    'preCondition* branchRule* itemSessionControl? timeLimits? variableMapping* weight* templateDefault*',
};

const QTI12: Readonly<Record<string, Model>> = {
  questestinterop: 'qticomment? objectbank|assessment|section|item*',
  assessment:
    'qticomment? duration? qtimetadata* objectives* assessmentcontrol* rubric* presentation_material? outcomes_processing* assessproc_extension? assessfeedback* selection_ordering? reference? sectionref|section+',
  section:
    'qticomment? duration? qtimetadata* objectives* sectioncontrol* sectionprecondition* sectionpostcondition* rubric* presentation_material? outcomes_processing* sectionproc_extension? sectionfeedback* selection_ordering? reference? itemref|item|sectionref|section*',
  objectbank: 'qticomment? qtimetadata* section|item*',
  item: 'qticomment? duration? itemmetadata? objectives* itemcontrol* itemprecondition* itempostcondition* itemrubric|rubric* presentation? resprocessing* itemproc_extension? itemfeedback* reference?',
  itemmetadata: 'qtimetadata*',
  qtimetadata: 'vocabulary? qtimetadatafield+',
  qtimetadatafield: 'fieldlabel fieldentry',
  resprocessing: 'qticomment? outcomes respcondition|itemproc_extension+',
  outcomes: 'qticomment? decvar|interpretvar+',
  respcondition: 'qticomment? conditionvar setvar* displayfeedback* respcond_extension?',
  selection_ordering: 'qticomment? sequence_parameter* selection* order?',
  selection:
    'sourcebank_ref? selection_number? selection_metadata|and_selection|or_selection|not_selection|selection_extension*',
};

const CARTRIDGE: Readonly<Record<string, Model>> = {
  topic: 'title text attachments?',
  attachments: 'attachment+',
  webLink: 'title url',
  cartridge_basiclti_link:
    'title description? custom? extensions* launch_url? secure_launch_url? icon? secure_icon? vendor cartridge_bundle? cartridge_icon?',
  vendor: 'code name description? url? contact?',
};

/** What may stand in a prompt, a choice in a line and a word to drop: words, and what is set among words. */
const INLINE =
  /^(?:a|abbr|acronym|b|big|br|cite|code|dfn|em|feedbackInline|hottext|i|img|kbd|math|object|printedVariable|q|samp|small|span|strong|sub|sup|tt|var|templateInline)$/;
const LINES: ReadonlySet<string> = new Set(['prompt', 'feedbackInline', 'p']);
const BLOCKS_ONLY: ReadonlySet<string> = new Set(['itemBody', 'blockquote']);

/** What a text of one of these standards says against it, each with its line. */
export function against(text: string, path: string): string[] {
  const root = parseXml(text, path);
  if (/imsqtiasi_v3p0/.test(root.ns)) return [];
  const models = /imsqti_v2/.test(root.ns) ? QTI2 : /qtiasi/.test(root.ns) ? QTI12 : CARTRIDGE;
  const found: string[] = [];
  const look = (element: XmlElement) => {
    const model = models[element.name];
    const inside = elements(element);
    const names = inside.map((e) => e.name);
    const tell = (what: string) => found.push(`${path}:${element.line} ${element.name} ${what}`);
    if (model !== undefined && !fits(model, names)) tell(`holds ${names.join(' ')}, not ${model}`);
    if (models === QTI2) {
      const isHtml = (name: string) => !INLINE.test(name) && !/Interaction$/.test(name) && !/^gap/.test(name);
      if (LINES.has(element.name)) for (const name of names.filter(isHtml)) tell(`holds the block ${name}`);
      const words = insideOf(element).some((node) => typeof node === 'string' && node.trim() !== '');
      if (BLOCKS_ONLY.has(element.name)) {
        if (words) tell('holds words by themselves');
        for (const name of names)
          if (INLINE.test(name) || /^(textEntry|inlineChoice)Interaction$/.test(name)) tell(`holds ${name} by itself`);
      }
    }
    inside.forEach(look);
  };
  look(root);
  return found;
}

function fits(model: Model, names: readonly string[]): boolean {
  const pattern = model
    .split(' ')
    .filter((part) => part !== '')
    .map((part) => {
      const [, any = '', times = ''] = /^(.*?)([?*+]?)$/.exec(part) ?? [];
      return `(?:(?:${any}) )${times}`;
    })
    .join('');
  return new RegExp(`^${pattern}$`).test(names.map((name) => `${name} `).join(''));
}
