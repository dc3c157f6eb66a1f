import { randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';

/**
 * A Common Cartridge 1.2 as courses are, of so many items, as unlike what Treenail writes as it can be: prefixes on the
 * cartridge's own elements, attributes in another order, white space and comments, folders five deep, pictures that many
 * pages share and are named as dependencies, texts from a line to forty pages, questions of every type.
 */
export async function writeMixed(path: string, items: number): Promise<void> {
  const zip = new yazl.ZipFile();
  const done = pipeline(zip.outputStream, createWriteStream(path));
  const part = (share: number) => Math.round((items * share) / 10_000);
  const numbers = new Numbers(7);
  const add = (name: string, text: string) => zip.addBuffer(Buffer.from(text), name);
  const resources: string[] = [];
  const entries: { id: string; title: string }[] = [];
  const entry = (id: string) => entries.push({ id, title: numbers.words(2 + numbers.below(7)) });

  const pictures = Math.max(1, part(400));
  for (let i = 0; i < pictures; i++) {
    zip.addBuffer(pictureOf(i, 20_000 + numbers.below(120_000)), `media/pictures/${pictureName(i)}`, {
      compress: false,
    });
    resources.push(
      `\n    <cc:resource href="media/pictures/${encodeURIComponent(pictureName(i))}" type="webcontent" identifier="PIC${i}">\n      <cc:file href="media/pictures/${encodeURIComponent(pictureName(i))}"/>\n    </cc:resource>`,
    );
  }
  for (let i = 0, pages = part(5800); i < pages; i++) {
    const shown = [numbers.below(pictures), numbers.below(pictures)];
    const folder = `content/unit ${i % 37}/${i % 11}`;
    add(`${folder}/page-${i}.html`, pageText(numbers, i, shown, folder));
    const href = encodeURI(`${folder}/page-${i}.html`);
    resources.push(
      `\n    <cc:resource identifier="PAGE${i}" href="${href}"\n        type="webcontent">\n      <cc:file href="${href}"/>\n      <cc:dependency identifierref="PIC${shown[0]}"/></cc:resource>`,
    );
    entry(`PAGE${i}`);
  }
  for (let i = 0, sheets = part(1200); i < sheets; i++) {
    zip.addBuffer(noiseOf(4_000 + numbers.below(90_000), i), `files/sheet ${i}.pdf`);
    resources.push(
      `<cc:resource type="webcontent" identifier="FILE${i}" href="files/sheet%20${i}.pdf"><cc:file href="files/sheet%20${i}.pdf"/></cc:resource>`,
    );
    entry(`FILE${i}`);
  }
  for (let i = 0, quizzes = part(880), left = part(5300); i < quizzes; i++) {
    const many =
      i === quizzes - 1
        ? left
        : Math.min(left, Math.max(1, Math.round((left / (quizzes - i)) * (0.5 + numbers.share()))));
    left -= many;
    add(`quiz/q${i}.xml`, quizText(numbers, i, many, pictures));
    resources.push(
      `\n    <cc:resource identifier="QUIZ${i}" type="imsqti_xmlv1p2/imscc_xmlv1p2/assessment"><cc:file href="quiz/q${i}.xml"/></cc:resource>`,
    );
    entry(`QUIZ${i}`);
  }
  for (let i = 0, topics = part(750); i < topics; i++) {
    add(
      `topics/t${i}.xml`,
      `<?xml version='1.0' encoding='UTF-8'?>\n<dt:topic xmlns:dt='http://www.imsglobal.org/xsd/imsccv1p2/imsdt_v1p2'>\n  <dt:title>${numbers.words(5)}</dt:title>\n  <dt:text texttype='text/html'>${escaped(`<p>${numbers.words(40 + numbers.below(400))}</p>`)}</dt:text>\n</dt:topic>`,
    );
    resources.push(
      `<cc:resource identifier="TOPIC${i}" type="imsdt_xmlv1p2"><cc:file href="topics/t${i}.xml"/></cc:resource>`,
    );
    entry(`TOPIC${i}`);
  }
  for (let i = 0, links = part(1050); i < links; i++) {
    add(
      `links/l${i}.xml`,
      `<wl:webLink xmlns:wl="http://www.imsglobal.org/xsd/imsccv1p2/imswl_v1p2"><wl:title>${numbers.words(4)}</wl:title><wl:url target="_blank" href="https://sea.example/${i}?a=1&amp;b=${i}"/></wl:webLink>`,
    );
    resources.push(
      `<cc:resource type="imswl_xmlv1p2" identifier="LINK${i}">\n<cc:file href="links/l${i}.xml"/></cc:resource>`,
    );
    entry(`LINK${i}`);
  }
  for (let i = 0, tools = part(300); i < tools; i++) {
    add(
      `tools/o${i}.xml`,
      `<?xml version="1.0" encoding="UTF-8"?><lti:cartridge_basiclti_link xmlns:lti="http://www.imsglobal.org/xsd/imslticc_v1p2" xmlns:blti="http://www.imsglobal.org/xsd/imsbasiclti_v1p0" xmlns:lticm="http://www.imsglobal.org/xsd/imslticm_v1p0" xmlns:lticp="http://www.imsglobal.org/xsd/imslticp_v1p0"><blti:title>${numbers.words(3)}</blti:title><blti:description>${numbers.words(20)}</blti:description><blti:custom><lticm:property name="unit">${i}</lticm:property></blti:custom><blti:launch_url>https://tools.example/${i}</blti:launch_url><blti:vendor><lticp:code>tool</lticp:code><lticp:name>Tool</lticp:name></blti:vendor></lti:cartridge_basiclti_link>`,
    );
    resources.push(
      `<cc:resource identifier="TOOL${i}" type="imsbasiclti_xmlv1p0"><cc:file href="tools/o${i}.xml"/></cc:resource>`,
    );
    entry(`TOOL${i}`);
  }
  const films = Math.max(1, part(130));
  for (let i = 0; i < films; i++) {
    zip.addBuffer(noiseOf(2_700_000, i), `media/films/${i}.mp4`, { compress: false });
    resources.push(
      `<cc:resource href="media/films/${i}.mp4" identifier="FILM${i}" type="webcontent"><cc:file href="media/films/${i}.mp4"/></cc:resource>`,
    );
    entry(`FILM${i}`);
  }
  add('imsmanifest.xml', manifestOf(entries, resources));
  zip.end();
  await done;
}

const pictureName = (i: number) => `plate ${i} – ${i % 3 === 0 ? 'Łódź' : 'keel'}.png`;

/** Numbers that are the same in every run. */
class Numbers {
  private at: number;

  constructor(seed: number) {
    this.at = seed;
  }

  below(limit: number): number {
    this.at = (Math.imul(this.at, 1103515245) + 12345) & 0x7fffffff;
    return (this.at >>> 8) % limit;
  }

  share(): number {
    return this.below(1000) / 1000;
  }

  words(many: number): string {
    const out: string[] = [];
    for (let i = 0; i < many; i++) out.push(WORDS[this.below(WORDS.length)] ?? '');
    return out.join(' ');
  }
}

const WORDS =
  'plank strake rove rivet frame keel stem batten clench caulk oakum pitch larch oak bronze spile tide ebb flood neap reach the a of and to in is that it for on with as by at from'.split(
    ' ',
  );

const noise = randomBytes(3_000_000);
function noiseOf(bytes: number, salt: number): Buffer {
  const own = Buffer.from(noise.subarray(0, bytes));
  own.writeUInt32LE(salt, 0);
  return own;
}

/** A PNG by its head, which is all that is looked at. */
function pictureOf(salt: number, bytes: number): Buffer {
  const own = noiseOf(bytes, salt);
  Buffer.from('89504e470d0a1a0a0000000d494844520000028000000190', 'hex').copy(own);
  return own;
}

const escaped = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');

function pageText(numbers: Numbers, i: number, pictures: readonly number[], folder: string): string {
  const up = '../'.repeat(folder.split('/').length);
  const parts = [
    `<!DOCTYPE html>\n<HTML lang=en>\n<head><title>${numbers.words(4)}</title>\n<link rel=stylesheet href="${up}style/course.css"></head><body class="page narrow">`,
  ];
  // One in ten is long, one in three short.
  const paragraphs = i % 10 === 0 ? 60 + numbers.below(60) : i % 3 === 0 ? 2 : 8 + numbers.below(12);
  for (let n = 0; n < paragraphs; n++) {
    if (n % 5 === 0) parts.push(`<h2 id="s${n}">${numbers.words(4)}</h2>`);
    parts.push(`<p class='t'>${numbers.words(30 + numbers.below(70))} &amp; <em>${numbers.words(3)}</em>.</p>`);
    if (n === 1) parts.push(`<ul>${`<li>${numbers.words(6)}`.repeat(4)}</ul>`);
  }
  for (const picture of pictures)
    parts.push(`<img src="${up}media/pictures/${encodeURIComponent(pictureName(picture))}" alt="${numbers.words(2)}">`);
  if (i > 0)
    parts.push(
      `<a href="page-${i - 37 > 0 ? i - 37 : i}.html#s0">before</a> <a href="https://sea.example/p/${i}">more</a>`,
    );
  if (i % 4 === 0)
    parts.push(`<table><tr><th>${numbers.words(1)}</th></tr><tr><td>${numbers.words(2)}</td></tr></table>`);
  return `${parts.join('\n')}</body></HTML>\n`;
}

function quizText(numbers: Numbers, quiz: number, many: number, pictures: number): string {
  const questions = Array.from({ length: many }, (_, i) => questionText(numbers, `${quiz}_${i}`, pictures));
  return `<?xml version="1.0"?>\n<!-- ${quiz} -->\n<q:questestinterop xmlns:q="http://www.imsglobal.org/xsd/ims_qtiasiv1p2">\n <q:assessment title="${numbers.words(4)}" ident="A${quiz}"><q:qtimetadata><q:qtimetadatafield><q:fieldlabel>cc_profile</q:fieldlabel><q:fieldentry>cc.exam.v0p1</q:fieldentry></q:qtimetadatafield></q:qtimetadata>\n  <q:section ident="S">${questions.join('\n')}</q:section></q:assessment></q:questestinterop>`;
}

const PROFILES = ['multiple_choice', 'multiple_response', 'true_false', 'fib', 'pattern_match', 'essay'] as const;

function questionText(numbers: Numbers, id: string, pictures: number): string {
  const profile = PROFILES[numbers.below(PROFILES.length)] ?? 'essay';
  const html = (text: string) =>
    `<q:material><q:mattext texttype="text/html">${escaped(text)}</q:mattext></q:material>`;
  const picture =
    numbers.below(8) === 0
      ? `<img src="$IMS-CC-FILEBASE$/media/pictures/${encodeURIComponent(pictureName(numbers.below(pictures)))}" alt="x">`
      : '';
  const prompt = html(`<p>${numbers.words(10 + numbers.below(60))}</p>${picture}`);
  const set = '<q:setvar varname="SCORE" action="Set">100</q:setvar>';
  const equal = (value: string) => `<q:varequal respident="R">${value}</q:varequal>`;
  const when = (test: string) =>
    `<q:respcondition continue="No"><q:conditionvar>${test}</q:conditionvar>${set}</q:respcondition>`;
  const labels = Array.from(
    { length: profile === 'true_false' ? 2 : 4 },
    (_, i) =>
      `<q:response_label ident="L${i}">${profile === 'true_false' ? html(i === 0 ? 'true' : 'false') : html(numbers.words(3))}</q:response_label>`,
  ).join('');
  const lid = (cardinality: string) =>
    `<q:response_lid rcardinality="${cardinality}" ident="R"><q:render_choice>${labels}</q:render_choice></q:response_lid>`;
  const entry = '<q:response_str ident="R" rcardinality="Single"><q:render_fib/></q:response_str>';
  const [response, rules] =
    profile === 'multiple_response'
      ? [
          lid('Multiple'),
          when(`<q:and>${equal('L1')}${equal('L2')}<q:not>${equal('L0')}</q:not><q:not>${equal('L3')}</q:not></q:and>`),
        ]
      : profile === 'multiple_choice' || profile === 'true_false'
        ? [lid('Single'), when(equal('L1'))]
        : profile === 'fib'
          ? [entry, when(`${equal('keel')}${equal('the keel')}`)]
          : profile === 'pattern_match'
            ? [entry, when('<q:varsubstring respident="R">oak</q:varsubstring>')]
            : [entry, ''];
  return `   <q:item ident="I${id}" title="${numbers.words(2)}"><q:itemmetadata><q:qtimetadata><q:qtimetadatafield><q:fieldlabel>cc_profile</q:fieldlabel><q:fieldentry>cc.${profile}.v0p1</q:fieldentry></q:qtimetadatafield></q:qtimetadata></q:itemmetadata><q:presentation>${prompt}${response}</q:presentation>${rules === '' ? '' : `<q:resprocessing><q:outcomes><q:decvar varname="SCORE" minvalue="0" maxvalue="100" vartype="Decimal"/></q:outcomes>${rules}</q:resprocessing>`}</q:item>`;
}

function manifestOf(entries: readonly { id: string; title: string }[], resources: readonly string[]): string {
  // Every seventh entry of a folder is one folder deeper, down to five.
  const lines: string[] = [];
  let depth = 0;
  entries.forEach(({ id, title }, i) => {
    if (i % 7 === 0) {
      if (depth === 5) {
        lines.push('</cc:item>'.repeat(depth));
        depth = 0;
      }
      lines.push(`\n   <cc:item identifier="FOLDER${i}">\n    <cc:title>Part ${i}</cc:title>`);
      depth++;
    }
    lines.push(`\n     <cc:item identifierref="${id}" identifier="ENTRY${i}"><cc:title>${title}</cc:title></cc:item>`);
  });
  lines.push('</cc:item>'.repeat(depth));
  return `<?xml version="1.0" encoding="UTF-8"?>\n<cc:manifest identifier="M" xmlns:cc="http://www.imsglobal.org/xsd/imsccv1p2/imscp_v1p1" xmlns:md="http://ltsc.ieee.org/xsd/imsccv1p2/LOM/manifest">\n <cc:metadata>\n  <cc:schema>IMS Common Cartridge</cc:schema>\n  <cc:schemaversion>1.2.0</cc:schemaversion>\n  <md:lom><md:general><md:title><md:string language="en">A course of many kinds</md:string></md:title></md:general></md:lom>\n </cc:metadata>\n <cc:organizations>\n  <cc:organization structure="rooted-hierarchy" identifier="O"><cc:item identifier="ROOT">${lines.join('')}\n  </cc:item></cc:organization>\n </cc:organizations>\n <cc:resources>${resources.join('')}\n </cc:resources>\n</cc:manifest>\n`;
}
