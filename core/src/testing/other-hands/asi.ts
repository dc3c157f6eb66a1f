/** Questions of QTI 1.2.1 as its standard allows them, unlike those that Treenail writes. */

interface Asked {
  /** What is answered: `response_lid` and the like, with what is around it. */
  presentation: string;
  /** One or several `resprocessing`. */
  processing: string;
  /** What stands beside them. */
  more?: string;
}

export const asiItem = (ident: string, { presentation, processing, more = '' }: Asked): string =>
  `<item ident="${ident}" title="${ident}"><presentation label="main"><flow>${presentation}</flow></presentation>${processing}${more}</item>`;

/** A bank of loose items in one file, which a manifest of its own names. */
export const asiPackage = (...items: string[]): Record<string, string> => ({
  'imsmanifest.xml': `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="yard"><organizations/><resources><resource identifier="bank" type="imsqti_xmlv1p2" href="yard/bank.xml"><file href="yard/bank.xml"/></resource></resources></manifest>`,
  'yard/bank.xml': `<questestinterop><objectbank ident="bank">${items.join('')}</objectbank></questestinterop>`,
});

const words = (text: string) =>
  `<flow_mat><material><mattext texttype="text/plain">${text}</mattext></material></flow_mat>`;

/** Labels A, B, C … to choose from. */
export const lid = (cardinality: 'Single' | 'Multiple', ...labels: string[]): string =>
  `${words('Which of them?')}<response_lid ident="R" rcardinality="${cardinality}" rtiming="No"><render_choice>${labels
    .map(
      (label, i) =>
        `<flow_label><response_label ident="${'ABCDEFGH'.charAt(i)}">${words(label)}</response_label></flow_label>`,
    )
    .join('')}</render_choice></response_lid>`;

export const str = `${words('Name it.')}<response_str ident="R" rcardinality="Single"><render_fib><response_label ident="field"/></render_fib></response_str>`;

/** Rules over one variable. */
export const rules = (variable: string, ...conditions: string[]): string =>
  `<resprocessing><outcomes><decvar varname="${variable}" vartype="Integer" defaultval="0"/></outcomes>${conditions.join('')}</resprocessing>`;

export const when = (test: string, variable: string, action: string, value: number, goOn = 'Yes'): string =>
  `<respcondition continue="${goOn}"><conditionvar>${test}</conditionvar><setvar varname="${variable}" action="${action}">${value}</setvar></respcondition>`;

export const is = (value: string): string => `<varequal respident="R">${value}</varequal>`;
