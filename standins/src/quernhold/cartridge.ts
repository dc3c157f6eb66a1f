import { createWriteStream, existsSync } from 'node:fs';
import { readdir, rename } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { escapeHtml as esc } from '../shared/http.ts';
import { leaves, type QCourse, type QNode, type QQuestion } from './model.ts';

/** Quernhold's standard export: a Common Cartridge 1.1. Its exporter's habits are its own. */
export async function writeCartridge(
  course: QCourse,
  folder: string,
  files: readonly string[],
  target: string,
): Promise<void> {
  const zip = new yazl.ZipFile();
  zip.addBuffer(Buffer.from(manifest(course, files)), 'imsmanifest.xml');
  for (const leaf of leaves(course.nodes)) {
    const text = definition(leaf);
    if (text !== null) zip.addBuffer(Buffer.from(text), definitionPath(leaf));
  }
  for (const bank of course.banks) {
    zip.addBuffer(
      Buffer.from(qti(`<objectbank ident="${bank.ref}-bank">${bank.questions.map(question).join('')}</objectbank>`)),
      `q/${bank.ref}/bank.xml`,
    );
  }
  for (const path of files) {
    zip.addFile(join(folder, path), path, { compress: !/\.(png|mp3|pdf|docx|xlsx|pptx)$/.test(path) });
  }
  zip.end();
  const part = `${target}.part`;
  await pipeline(zip.outputStream, createWriteStream(part));
  await rename(part, target);
}

/** Every file of a course, by its path. */
export async function listFiles(folder: string): Promise<string[]> {
  // A course that was made and never filled has none.
  if (!existsSync(folder)) return [];
  const found = await readdir(folder, { recursive: true, withFileTypes: true });
  return found
    .filter((f) => f.isFile())
    .map((f) => relative(folder, join(f.parentPath, f.name)).split(sep).join('/'))
    .sort();
}

type Leaf = Exclude<QNode, { kind: 'folder' }>;

function definitionPath(leaf: Leaf): string {
  return `q/${leaf.ref}/${leaf.kind}.xml`;
}

const HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n';

function definition(leaf: Leaf): string | null {
  switch (leaf.kind) {
    case 'page':
    case 'file':
    case 'words':
      return null;
    case 'link':
      return `${HEAD}<wl:webLink xmlns:wl="http://www.imsglobal.org/xsd/imsccv1p1/imswl_v1p1">\n  <title>${esc(leaf.title)}</title>\n  <url href="${esc(leaf.url)}"${leaf.newWindow ? ' target="_blank"' : ''}/>\n</wl:webLink>\n`
        .replaceAll('<title>', '<wl:title>')
        .replaceAll('</title>', '</wl:title>')
        .replace('<url ', '<wl:url ');
    case 'talk':
      return `${HEAD}<topic xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imsdt_v1p1">\n  <title>${esc(leaf.title)}</title>\n  <text texttype="text/html">${esc(placed(leaf.text))}</text>\n${attachments(leaf.attached)}</topic>\n`;
    case 'task':
      return `${HEAD}<assignment xmlns="http://www.imsglobal.org/xsd/imscc_extensions/assignment" identifier="${leaf.ref}-a">\n  <title>${esc(leaf.title)}</title>\n  <text texttype="text/html">${esc(placed(leaf.text))}</text>\n${leaf.notes === null ? '' : `  <instructor_text texttype="text/plain">${esc(leaf.notes)}</instructor_text>\n`}${attachments(leaf.attached)}  <gradable points_possible="${leaf.points}">true</gradable>\n  <submission_formats>${leaf.ways.map((w) => `<format type="${w}"/>`).join('')}</submission_formats>\n</assignment>\n`;
    case 'tool':
      return `${HEAD}<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0" xmlns:blti="http://www.imsglobal.org/xsd/imsbasiclti_v1p0" xmlns:lticm="http://www.imsglobal.org/xsd/imslticm_v1p0" xmlns:lticp="http://www.imsglobal.org/xsd/imslticp_v1p0">\n  <blti:title>${esc(leaf.title)}</blti:title>\n  <blti:description>${esc(leaf.about)}</blti:description>\n  <blti:custom>${Object.entries(
        leaf.parameters,
      )
        .map(([k, v]) => `<lticm:property name="${esc(k)}">${esc(v)}</lticm:property>`)
        .join(
          '',
        )}</blti:custom>\n  <blti:secure_launch_url>${esc(leaf.url)}</blti:secure_launch_url>\n  <blti:vendor><lticp:code>marrowick</lticp:code><lticp:name>Marrowick College</lticp:name></blti:vendor>\n</cartridge_basiclti_link>\n`;
    case 'quiz':
      return qti(
        `<assessment ident="${leaf.ref}-quiz" title="${esc(leaf.title)}"><qtimetadata>${field('cc_profile', 'cc.exam.v0p1')}${field('qmd_assessmenttype', 'Examination')}${field('qmd_scoretype', 'Percentage')}${field('cc_maxattempts', String(leaf.tries))}${field('qmd_timelimit', String(leaf.minutes))}</qtimetadata><rubric><material><mattext texttype="text/html">${esc(placed(leaf.intro))}</mattext></material></rubric><section ident="root_section">${leaf.questions.map(question).join('')}</section></assessment>`,
      );
  }
}

function placed(text: string): string {
  return text.replaceAll('$PLACE$', '$IMS-CC-FILEBASE$');
}

function attachments(paths: readonly string[]): string {
  if (paths.length === 0) return '';
  const names = paths.map((p) => p.slice(p.lastIndexOf('/') + 1));
  return `  <attachments>${names.map((n) => `<attachment href="${esc(n)}"/>`).join('')}</attachments>\n`;
}

function qti(body: string): string {
  return `${HEAD}<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2">\n${body}\n</questestinterop>\n`;
}

function field(label: string, entry: string): string {
  return `<qtimetadatafield><fieldlabel>${label}</fieldlabel><fieldentry>${esc(entry)}</fieldentry></qtimetadatafield>`;
}

const PROFILE: Record<QQuestion['type'], string> = {
  choice: 'cc.multiple_choice.v0p1',
  several: 'cc.multiple_response.v0p1',
  truth: 'cc.true_false.v0p1',
  blank: 'cc.fib.v0p1',
  pattern: 'cc.pattern_match.v0p1',
  essay: 'cc.essay.v0p1',
};

function material(html: string): string {
  return `<material><mattext texttype="text/html">${esc(placed(html))}</mattext></material>`;
}

function question(q: QQuestion): string {
  const r = `${q.ref}-r`;
  const id = (i: number) => `${q.ref}-${'ABCDEFGH'[i] ?? i}`;
  const meta = `${field('cc_profile', PROFILE[q.type])}${field('cc_weighting', String(q.points))}${q.topic === null ? '' : field('cc_question_category', q.topic)}`;
  const response =
    q.choices.length > 0
      ? `<response_lid ident="${r}" rcardinality="${q.type === 'several' ? 'Multiple' : 'Single'}"><render_choice>${q.choices
          .map((c, i) => `<response_label ident="${id(i)}">${material(esc(c.text))}</response_label>`)
          .join('')}</render_choice></response_lid>`
      : `<response_str ident="${r}" rcardinality="Single"><render_fib fibtype="String"${q.type === 'essay' ? ' rows="8" columns="60"' : ' prompt="Dashline"'}/></response_str>`;
  const set = '<setvar action="Set" varname="SCORE">100</setvar>';
  const conditions =
    q.type === 'several'
      ? [
          `<respcondition continue="No"><conditionvar><and>${q.choices.map((c, i) => (c.right ? `<varequal respident="${r}">${id(i)}</varequal>` : `<not><varequal respident="${r}">${id(i)}</varequal></not>`)).join('')}</and></conditionvar>${set}</respcondition>`,
        ]
      : [
          ...q.choices.flatMap((c, i) =>
            c.right
              ? [
                  `<respcondition continue="No"><conditionvar><varequal respident="${r}">${id(i)}</varequal></conditionvar>${set}</respcondition>`,
                ]
              : [],
          ),
          ...q.answers.map(
            (a) =>
              `<respcondition continue="No"><conditionvar><${q.type === 'pattern' ? 'varsubstring' : 'varequal'} respident="${r}" case="No">${esc(a)}</${q.type === 'pattern' ? 'varsubstring' : 'varequal'}></conditionvar>${set}</respcondition>`,
          ),
        ];
  if (q.feedback !== null)
    conditions.unshift(
      '<respcondition continue="Yes"><conditionvar><other/></conditionvar><displayfeedback feedbacktype="Response" linkrefid="general_fb"/></respcondition>',
    );
  const feedback =
    q.feedback === null
      ? ''
      : `<itemfeedback ident="general_fb"><flow_mat>${material(`<p>${esc(q.feedback)}</p>`)}</flow_mat></itemfeedback>`;
  const model =
    q.model === null
      ? ''
      : `<itemfeedback ident="solution"><solution><solutionmaterial>${material(`<p>${esc(q.model)}</p>`)}</solutionmaterial></solution></itemfeedback>`;
  return `\n<item ident="${q.ref}" title="${esc(q.title)}"><itemmetadata><qtimetadata>${meta}</qtimetadata></itemmetadata><presentation>${material(q.prompt)}${response}</presentation><resprocessing><outcomes><decvar maxvalue="100" minvalue="0" varname="SCORE" vartype="Decimal"/></outcomes>${conditions.join('')}</resprocessing>${feedback}${model}</item>`;
}

const TYPE: Record<Exclude<Leaf['kind'], 'page' | 'file' | 'words'>, string> = {
  link: 'imswl_xmlv1p1',
  talk: 'imsdt_xmlv1p1',
  task: 'assignment_xmlv1p0',
  tool: 'imsbasiclti_xmlv1p0',
  quiz: 'imsqti_xmlv1p2/imscc_xmlv1p1/assessment',
};

function manifest(course: QCourse, files: readonly string[]): string {
  const items = (nodes: readonly QNode[]): string =>
    nodes
      // A standard package has no place for glossaries.
      .filter((n) => n.kind !== 'words')
      .map((n) =>
        n.kind === 'folder'
          ? `<item identifier="i-${n.ref}"><title>${esc(n.title)}</title>${items(n.inside)}</item>`
          : `<item identifier="i-${n.ref}" identifierref="${n.ref}"><title>${esc(n.title)}</title></item>`,
      )
      .join('\n');
  const owned = new Set<string>();
  const href = (path: string) => esc(path.split('/').map(encodeURIComponent).join('/'));
  const resources: string[] = [];
  for (const leaf of leaves(course.nodes)) {
    if (leaf.kind === 'page' || leaf.kind === 'file') {
      owned.add(leaf.path);
      const use = leaf.kind === 'page' && leaf.use ? ` intendeduse="${leaf.use}"` : '';
      const role =
        leaf.kind === 'page' && leaf.tutorsOnly
          ? '<metadata><lomr:lom><lomr:educational><lomr:intendedEndUserRole><lomr:source>IMSGLC_CC_Rolesv1p1</lomr:source><lomr:value>Instructor</lomr:value></lomr:intendedEndUserRole></lomr:educational></lomr:lom></metadata>'
          : '';
      resources.push(
        `<resource identifier="${leaf.ref}" type="webcontent" href="${href(leaf.path)}"${use}>${role}<file href="${href(leaf.path)}"/></resource>`,
      );
    } else if (leaf.kind !== 'words') {
      const attached = leaf.kind === 'talk' || leaf.kind === 'task' ? leaf.attached : [];
      const depends = attached.map((_p, i) => `<dependency identifierref="${leaf.ref}-f${i}"/>`).join('');
      resources.push(
        `<resource identifier="${leaf.ref}" type="${TYPE[leaf.kind]}"><file href="${definitionPath(leaf)}"/>${depends}</resource>`,
      );
      attached.forEach((path, i) => {
        owned.add(path);
        resources.push(
          `<resource identifier="${leaf.ref}-f${i}" type="associatedcontent/imscc_xmlv1p1/learning-application-resource" href="${href(path)}"><file href="${href(path)}"/></resource>`,
        );
      });
    }
  }
  for (const bank of course.banks)
    resources.push(
      `<resource identifier="${bank.ref}" type="imsqti_xmlv1p2/imscc_xmlv1p1/question-bank"><file href="q/${bank.ref}/bank.xml"/></resource>`,
    );
  files
    .filter((f) => !owned.has(f))
    .forEach((path, i) =>
      resources.push(
        `<resource identifier="${course.id}-w${i}" type="webcontent" href="${href(path)}"><file href="${href(path)}"/></resource>`,
      ),
    );
  return `${HEAD}<!-- Quernhold bundle, cartridge form -->
<manifest identifier="quern-${course.id}" xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1" xmlns:lomm="http://ltsc.ieee.org/xsd/imsccv1p1/LOM/manifest" xmlns:lomr="http://ltsc.ieee.org/xsd/imsccv1p1/LOM/resource">
<metadata><schema>IMS Common Cartridge</schema><schemaversion>1.1.0</schemaversion>
<lomm:lom><lomm:general><lomm:identifier><lomm:catalog>Marrowick</lomm:catalog><lomm:entry>${esc(course.code)}</lomm:entry></lomm:identifier><lomm:title><lomm:string language="en">${esc(course.title)}</lomm:string></lomm:title><lomm:language>en</lomm:language><lomm:description><lomm:string language="en">${esc(course.about)}</lomm:string></lomm:description>${course.keywords.map((k) => `<lomm:keyword><lomm:string language="en">${esc(k)}</lomm:string></lomm:keyword>`).join('')}</lomm:general></lomm:lom></metadata>
<organizations><organization identifier="quern-tree" structure="rooted-hierarchy"><item identifier="quern-root">
${items(course.nodes)}
</item></organization></organizations>
<resources>
${resources.join('\n')}
</resources>
</manifest>
`;
}
