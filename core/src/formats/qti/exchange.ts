import { lookThrough, parseXml, splice, type Splice, type XmlElement } from '../../markup/index.ts';
import { NAMESPACES, attributeName, elementName, nameOf, templateOf, type QtiVersion } from '../qti2/names.ts';

/**
 * One file of QTI 2.1, 2.2 or 3.0 in the words of another of them, by splicing: names of elements and attributes,
 * namespaces and their schemas, addresses of templates, and the body that 3.0 puts around what is shown. All else stays as
 * it was: comments, order, unknown attributes, MathML and SVG, texts.
 */

const words = (list: string) => list.split(/\s+/).filter((word) => word !== '');

/** Elements of QTI 2.1 and 2.2 that are not mark-up of texts (Assessment, Section and Item Information Model). */
const ELEMENTS: ReadonlySet<string> = new Set(
  words(`
  assessmentTest outcomeDeclaration timeLimits testPart preCondition branchRule itemSessionControl assessmentSection
  assessmentSectionRef selection ordering rubricBlock assessmentItemRef variableMapping weight templateDefault testFeedback
  outcomeProcessing outcomeCondition outcomeIf outcomeElseIf outcomeElse outcomeProcessingFragment lookupOutcomeValue exitTest
  setOutcomeValue assessmentItem responseDeclaration defaultValue value correctResponse mapping mapEntry areaMapping
  areaMapEntry matchTable matchTableEntry interpolationTable interpolationTableEntry templateDeclaration templateProcessing
  templateCondition templateIf templateElseIf templateElse exitTemplate setTemplateValue setCorrectResponse setDefaultValue
  templateConstraint templateProcessingFragment itemBody responseProcessing responseCondition responseIf responseElseIf
  responseElse exitResponse responseProcessingFragment modalFeedback feedbackInline feedbackBlock templateInline templateBlock
  choiceInteraction simpleChoice prompt orderInteraction associateInteraction simpleAssociableChoice matchInteraction
  simpleMatchSet gapMatchInteraction gapText gapImg gap inlineChoiceInteraction inlineChoice textEntryInteraction
  extendedTextInteraction hottextInteraction hottext hotspotInteraction hotspotChoice selectPointInteraction
  graphicOrderInteraction graphicAssociateInteraction associableHotspot graphicGapMatchInteraction positionObjectInteraction
  positionObjectStage sliderInteraction mediaInteraction drawingInteraction uploadInteraction endAttemptInteraction
  customInteraction printedVariable infoControl stylesheet assessmentStimulusRef assessmentStimulus stimulusBody
  baseValue variable default correct mapResponse mapResponsePoint null randomInteger randomFloat random multiple ordered
  containerSize isNull index fieldValue contains substring not and or anyN match stringMatch patternMatch equal equalRounded
  inside lt gt lte gte durationLT durationGTE sum product subtract divide power integerDivide integerModulus truncate round
  roundTo integerToFloat customOperator statsOperator mathOperator mathConstant min max gcd lcm repeat delete member
  numberCorrect numberIncorrect numberPresented numberResponded numberSelected outcomeMinimum outcomeMaximum testVariables`),
);

/** What 2.1 does not have: shared stimuli, and the mark-up that came with HTML 5. */
const SINCE_22: ReadonlySet<string> = new Set(
  words(`assessmentStimulusRef assessmentStimulus stimulusBody article aside audio bdi bdo figcaption figure footer header
  nav picture rb rp rt ruby section source track video label svg`),
);

/** In 3.0 what these show stands in a body of its own. */
const WITH_BODY: ReadonlySet<string> = new Set([
  'modalFeedback',
  'feedbackBlock',
  'rubricBlock',
  'templateBlock',
  'testFeedback',
]);

/** Names that are not spelled by the rule. */
const SPELLED: Readonly<Record<string, string>> = {
  durationLT: 'qti-duration-lt',
  durationGTE: 'qti-duration-gte',
};
const RESPELLED = Object.fromEntries(Object.entries(SPELLED).map(([old, now]) => [now, old]));

const SCHEMAS: Record<QtiVersion, string> = {
  '2.1': 'http://www.imsglobal.org/xsd/qti/qtiv2p1/imsqti_v2p1.xsd',
  '2.2': 'http://www.imsglobal.org/xsd/qti/qtiv2p2/imsqti_v2p2.xsd',
  '3.0': 'https://purl.imsglobal.org/spec/qti/v3p0/schema/xsd/imsqti_asiv3p0_v1p0.xsd',
};

const OWN = new Map<string, QtiVersion>(
  (Object.entries(NAMESPACES) as [QtiVersion, string][]).map(([version, ns]) => [ns, version]),
);

/** The version of a file by the namespace of its root; `null` where it is none of QTI 2 and 3. */
export function versionOfRoot({ ns }: XmlElement): QtiVersion | null {
  return OWN.get(ns) ?? null;
}

/** The name of an element of QTI as 2.x spells it; `null` where it is mark-up of a text. */
function ownName(element: XmlElement, root: XmlElement): string | null {
  if (element.ns !== root.ns) return null;
  const name = RESPELLED[element.name] ?? nameOf(element);
  if (element.name.startsWith('qti-')) return name;
  return OWN.get(root.ns) !== '3.0' && ELEMENTS.has(name) ? name : null;
}

/**
 * The versions in whose words a file can be said: of what 3.0 alone has, and of what 2.1 does not have yet, only those that
 * have it.
 */
export function versionsFor(root: XmlElement): QtiVersion[] {
  let since: QtiVersion = '2.1';
  for (const { element, attributes } of lookThrough(root)) {
    const own = ownName(element, root);
    if (own !== null && own !== 'contentBody' && !ELEMENTS.has(own)) return ['3.0'];
    const isMarkup = element.ns === root.ns || element.name === 'svg';
    if (isMarkup && SINCE_22.has(own ?? element.name)) since = '2.2';
    if (isMarkup && attributes.some((name) => /^(aria|data)-/.test(name))) since = '2.2';
  }
  return since === '2.1' ? ['2.1', '2.2', '3.0'] : ['2.2', '3.0'];
}

/** A file in the words of another version; the same where it is none of QTI 2 and 3. */
export function exchanged(text: string, file: string, to: QtiVersion, depthLimit: number): string {
  const root = parseXml(text, file, depthLimit);
  const from = versionOfRoot(root);
  if (from === null || from === to) return text;
  const splices: Splice[] = [];
  const stack = [root];
  for (let element = stack.pop(); element; element = stack.pop()) {
    splices.push(...exchangeElement(element, root, text, from, to));
    for (const part of element.children) if (typeof part !== 'string') stack.push(part);
  }
  return splice(text, splices);
}

const isLater = (version: QtiVersion) => version === '3.0';

function exchangeElement(
  element: XmlElement,
  root: XmlElement,
  text: string,
  from: QtiVersion,
  to: QtiVersion,
): Splice[] {
  const { start, openEnd, closeStart, end } = element;
  const tag = text.slice(start, openEnd);
  const own = ownName(element, root);
  const isOther = isLater(from) !== isLater(to);
  // In 2.x the body is not there; what stands in it does.
  if (own === 'contentBody' && isOther) {
    return end === openEnd
      ? [{ start, end, text: '' }]
      : [
          { start, end: openEnd, text: '' },
          { start: closeStart, end, text: '' },
        ];
  }
  let open = element === root || /xmlns|schemaLocation/.test(tag) ? withNamespaces(tag, from, to) : tag;
  const prefix = /^<([\w.-]+:)?/.exec(tag)?.[1] ?? '';
  const splices: Splice[] = [];
  if (own !== null && isOther) {
    const name = prefix + (isLater(to) ? (SPELLED[own] ?? elementName(own, to)) : own);
    open = renamedTag(open, name, to);
    if (own === 'rubricBlock' && isLater(to) && element.attrs['use'] === undefined) {
      open = open.replace(/\s*\/?>$/, (close) => ` use="instructions"${close}`);
    }
    const body = isLater(to) && WITH_BODY.has(own) ? `${prefix}qti-content-body` : null;
    if (end === openEnd) {
      if (body) open = `${open.replace(/\s*\/>$/, '>')}<${body}/></${name}>`;
    } else {
      splices.push({ start: closeStart, end, text: `${body ? `</${body}>` : ''}</${name}>` });
      if (body) {
        // Style sheets stand before the body.
        const first = element.children.find((c) => typeof c !== 'string' && nameOf(c) !== 'stylesheet');
        const last = element.children.filter((c) => typeof c !== 'string' && nameOf(c) === 'stylesheet').at(-1);
        const at = last && typeof last !== 'string' && first !== last ? last.end : openEnd;
        if (at === openEnd) open += `<${body}>`;
        else splices.push({ start: at, end: at, text: `<${body}>` });
      }
    }
  }
  if (own === 'responseProcessing') open = withTemplate(open, to);
  if (open !== tag) splices.push({ start, end: openEnd, text: open });
  return splices;
}

/** Names and values of an open tag. */
const ATTRIBUTE = /(\s)([^\s=/>"']+)(\s*=\s*)("[^"]*"|'[^']*')/g;

function renamedTag(tag: string, name: string, to: QtiVersion): string {
  const spelled = tag.replace(ATTRIBUTE, (whole, space: string, attribute: string, is: string, value: string) => {
    if (attribute.includes(':') || attribute === 'xmlns' || /^(aria|data)-/.test(attribute)) return whole;
    const now = isLater(to)
      ? attributeName(attribute, to)
      : attribute.replace(/-([a-z0-9])/g, (_dash, letter: string) => letter.toUpperCase());
    return space + now + is + value;
  });
  return spelled.replace(/^<[^\s/>]+/, `<${name}`);
}

function withNamespaces(tag: string, from: QtiVersion, to: QtiVersion): string {
  return tag.replace(ATTRIBUTE, (whole, space: string, attribute: string, is: string, value: string) => {
    const quote = value.charAt(0);
    const inner = value.slice(1, -1);
    if (attribute === 'xmlns' || attribute.startsWith('xmlns:')) {
      return inner === NAMESPACES[from] ? space + attribute + is + quote + NAMESPACES[to] + quote : whole;
    }
    if (!/:schemaLocation$/.test(attribute)) return whole;
    const parts = inner.trim().split(/\s+/);
    const pairs = parts.map((part, i) => {
      if (i % 2 === 0) return part === NAMESPACES[from] ? NAMESPACES[to] : part;
      return parts[i - 1] === NAMESPACES[from] ? SCHEMAS[to] : part;
    });
    return space + attribute + is + quote + pairs.join(' ') + quote;
  });
}

function withTemplate(tag: string, to: QtiVersion): string {
  return tag.replace(
    /(\stemplate\s*=\s*)(["'])[^"']*\/rptemplates\/(\w+)(?:\.xml)?\2/,
    (_whole, is: string, quote: string, name: string) => is + quote + templateOf(to, name) + quote,
  );
}
