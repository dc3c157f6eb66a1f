import { createWriteStream } from 'node:fs';
import { mkdir, rename } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';
import { escapeHtml as esc } from '../shared/http.ts';
import type { TEntry, TFile, TQuestion, TSpace } from './model.ts';

const HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n';
const V = 'imsccv1p2';

/**
 * Tarnhall's standard export: a Common Cartridge 1.2. Tasks leave as pages, since that version has no tasks; pools leave
 * under numbers, without the names that people gave them; marks of a task, its files but the first, and whether tests
 * are timed stay behind.
 */
export async function writeCartridge(space: TSpace, folder: string, target: string): Promise<void> {
  const zip = new yazl.ZipFile();
  const put = (path: string, text: string) => zip.addBuffer(Buffer.from(text), path);
  const files = new Map(space.files.map((f) => [f.id, f]));
  const used = new Map<string, TFile>();
  const href = (file: TFile): string => `files/${file.id}/${encodeURIComponent(file.path)}`;
  const held = (text: string, up: string): string =>
    text.replace(/(held|entry):([fe]\d+)/g, (whole, kind: string, id: string) => {
      const file = files.get(id);
      if (kind === 'entry') return `${up}text/${id}.html`;
      if (!file) return whole;
      used.set(id, file);
      return up + href(file);
    });
  const resources: string[] = [];
  const resource = (id: string, type: string, path: string) =>
    resources.push(
      `<resource identifier="${id}" type="${type}" href="${esc(path)}"><file href="${esc(path)}"/></resource>`,
    );
  const page = (entry: TEntry, more = ''): void => {
    const path = `text/${entry.id}.html`;
    put(
      path,
      `<!DOCTYPE html><html><head><meta charset="utf-8"><title>${esc(entry.title)}</title></head><body>${held(entry.body, '../')}${more}</body></html>`,
    );
    resource(entry.id, 'webcontent', path);
  };
  const leave = (entry: TEntry): boolean => {
    const path = `parts/${entry.id}.xml`;
    switch (entry.sort) {
      case 'heading':
        return true;
      case 'text':
        page(entry);
        return true;
      case 'task': {
        const [first] = entry.files.flatMap((id) => files.get(id) ?? []);
        if (first) used.set(first.id, first);
        page(entry, first ? `<p><a href="../${esc(href(first))}">${esc(first.path)}</a></p>` : '');
        return true;
      }
      case 'file': {
        const file = files.get(entry.file ?? '');
        if (!file) return false;
        used.set(file.id, file);
        resource(entry.id, 'webcontent', href(file));
        return true;
      }
      case 'pointer':
        put(
          path,
          `${HEAD}<webLink xmlns="http://www.imsglobal.org/xsd/${V}/imswl_v1p2"><title>${esc(entry.title)}</title><url href="${esc(entry.url)}"/></webLink>`,
        );
        resource(entry.id, 'imswl_xmlv1p2', path);
        return true;
      case 'talk':
        put(
          path,
          `${HEAD}<topic xmlns="http://www.imsglobal.org/xsd/${V}/imsdt_v1p2"><title>${esc(entry.title)}</title><text texttype="text/html">${esc(held(entry.body, '../'))}</text></topic>`,
        );
        resource(entry.id, 'imsdt_xmlv1p2', path);
        return true;
      case 'launcher':
        put(
          path,
          `${HEAD}<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p2" xmlns:blti="http://www.imsglobal.org/xsd/imsbasiclti_v1p0"><blti:title>${esc(entry.title)}</blti:title><blti:description>${esc(entry.body)}</blti:description><blti:secure_launch_url>${esc(entry.url)}</blti:secure_launch_url></cartridge_basiclti_link>`,
        );
        resource(entry.id, 'imsbasiclti_xmlv1p2', path);
        return true;
      case 'test':
        put(
          path,
          qti(
            `<assessment ident="${entry.id}-a" title="${esc(entry.title)}"><qtimetadata>${field('cc_profile', 'cc.exam.v0p1')}${entry.tries === null ? '' : field('cc_maxattempts', String(entry.tries))}</qtimetadata><section ident="root_section">${entry.questions.map((q) => question(q, held)).join('')}</section></assessment>`,
          ),
        );
        resource(entry.id, `imsqti_xmlv1p2/imscc_xmlv1p2/assessment`, path);
        return true;
    }
  };
  const outline = space.units.map((unit) => {
    const inside = unit.entries.filter(leave).map((e) => {
      const ref = e.sort === 'heading' ? '' : ` identifierref="${e.id}"`;
      return `<item identifier="i-${e.id}"${ref}><title>${esc(e.title)}</title></item>`;
    });
    return `<item identifier="i-${unit.id}"><title>${esc(unit.title)}</title>${inside.join('')}</item>`;
  });
  space.pools.forEach((pool, i) => {
    const path = `pools/${i + 1}.xml`;
    put(
      path,
      qti(`<objectbank ident="pool-${i + 1}">${pool.questions.map((q) => question(q, held)).join('')}</objectbank>`),
    );
    resource(pool.id, 'imsqti_xmlv1p2/imscc_xmlv1p2/question-bank', path);
  });
  for (const file of used.values()) {
    zip.addFile(join(folder, file.id), `files/${file.id}/${file.path}`);
    if (!resources.some((r) => r.includes(`href="${esc(href(file))}"`)))
      resource(`${file.id}-w`, 'webcontent', href(file));
  }
  put(
    'imsmanifest.xml',
    `${HEAD}<manifest identifier="tarn-${space.id}" xmlns="http://www.imsglobal.org/xsd/${V}/imscp_v1p1" xmlns:m="http://ltsc.ieee.org/xsd/${V}/LOM/manifest">
<metadata><schema>IMS Common Cartridge</schema><schemaversion>1.2.0</schemaversion><m:lom><m:general><m:title><m:string>${esc(space.title)}</m:string></m:title></m:general></m:lom></metadata>
<organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="root">${outline.join('')}</item></organization></organizations>
<resources>${resources.join('')}</resources></manifest>`,
  );
  zip.end();
  await mkdir(dirname(target), { recursive: true });
  await pipeline(zip.outputStream, createWriteStream(`${target}.part`));
  await rename(`${target}.part`, target);
}

function qti(body: string): string {
  return `${HEAD}<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2">${body}</questestinterop>`;
}

function field(label: string, entry: string): string {
  return `<qtimetadatafield><fieldlabel>${label}</fieldlabel><fieldentry>${esc(entry)}</fieldentry></qtimetadatafield>`;
}

const FORMS: Record<TQuestion['form'], string> = {
  one: 'multiple_choice',
  many: 'multiple_response',
  yesno: 'true_false',
  word: 'fib',
  prose: 'essay',
};

/** A question, with what is replied to it; identifiers of answers are their places. */
function question(q: TQuestion, held: (text: string, up: string) => string): string {
  const material = (html: string) =>
    `<material><mattext texttype="text/html">${esc(held(html, '../'))}</mattext></material>`;
  const response =
    q.options.length > 0
      ? `<response_lid ident="r" rcardinality="${q.form === 'many' ? 'Multiple' : 'Single'}"><render_choice>${q.options.map((o) => `<response_label ident="${esc(o.key)}">${material(o.text)}</response_label>`).join('')}</render_choice></response_lid>`
      : `<response_str ident="r" rcardinality="Single"><render_fib${q.form === 'prose' ? ' rows="5"' : ''}/></response_str>`;
  const score = '<setvar action="Set" varname="SCORE">100</setvar>';
  const is = (key: string) => `<varequal respident="r">${esc(key)}</varequal>`;
  const keys =
    q.form === 'many'
      ? [`<and>${q.options.map((o) => (o.right ? is(o.key) : `<not>${is(o.key)}</not>`)).join('')}</and>`]
      : [
          ...q.options.filter((o) => o.right).map((o) => is(o.key)),
          ...q.words.map((w) => `<varequal respident="r" case="${w.strict ? 'Yes' : 'No'}">${esc(w.text)}</varequal>`),
        ];
  const { any } = q.replies;
  const conditions = [
    ...(any === null
      ? []
      : [
          '<respcondition continue="Yes"><conditionvar><other/></conditionvar><displayfeedback feedbacktype="Response" linkrefid="general_fb"/></respcondition>',
        ]),
    ...keys.map((key) => `<respcondition continue="No"><conditionvar>${key}</conditionvar>${score}</respcondition>`),
  ];
  const feedback =
    any === null ? '' : `<itemfeedback ident="general_fb"><flow_mat>${material(any)}</flow_mat></itemfeedback>`;
  return `<item ident="${esc(q.key)}" title="${esc(q.label)}"><itemmetadata><qtimetadata>${field('cc_profile', `cc.${FORMS[q.form]}.v0p1`)}${field('cc_weighting', String(q.marks))}</qtimetadata></itemmetadata><presentation>${material(q.ask)}${response}</presentation><resprocessing><outcomes><decvar maxvalue="100" minvalue="0" varname="SCORE" vartype="Decimal"/></outcomes>${conditions.join('')}</resprocessing>${feedback}</item>`;
}
