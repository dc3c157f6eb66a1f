import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { leaves, untouched, type QCourse, type QNode, type QQuestion, type QWord } from '../quernhold/model.ts';
import { HOME } from '../quernhold/home.ts';
import { escapeHtml } from '../shared/http.ts';
import { film } from './film.ts';
import { furnish } from './furnish.ts';
import * as media from './media.ts';
import type { CoursePlan, FilePlan, NodePlan, QuestionPlan } from './plan.ts';

const STYLE =
  'body { font-family: Georgia, serif; max-width: 46em; }\nfigure { margin: 1em 0; }\n.see { font-size: 90%; }\n';

/** How much of its length a film has: little where courses are made for tests. */
const FILMS = Number(process.env['STANDIN_FILMS'] ?? 1);

/** Makes a course of a plan: writes every file below `folder` and gives the course as Quernhold keeps it. */
export async function buildCourse(plan: CoursePlan, id: string, folder: string): Promise<QCourse> {
  return new CourseBuilder(plan, id, folder).build();
}

/** A name for a file. Titles in other scripts leave nothing of themselves, so they are numbered by their letters. */
export function slug(title: string): string {
  const plain = title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 48);
  const letters = [...title].reduce((sum, c) => (sum * 31 + (c.codePointAt(0) ?? 0)) % 1_000_003, 7);
  return plain.length > 3 ? plain : `${plain}p${letters}`;
}

/** A file as its plan says. */
export async function makeFile(plan: FilePlan): Promise<Buffer> {
  switch (plan.make) {
    case 'pdf':
      return media.pdf(plan.name, plan.lines);
    case 'docx':
      return media.docx(plan.name, plan.lines);
    case 'pptx':
      return media.pptx(plan.name, plan.lines);
    case 'xlsx':
      return media.xlsx(plan.name, plan.rows);
    case 'ics':
      return media.calendar(plan.name, plan.events);
    case 'mp3':
      return media.mp3(12, plan.hertz);
    case 'wav':
      return media.wav(plan.bytes, plan.name);
    case 'mp4':
      return film(plan.bytes * FILMS, plan.name);
    case 'png':
      return media.picture(plan.drawing, plan.name);
  }
}

class CourseBuilder {
  private count = 0;
  private readonly plan: CoursePlan;
  private readonly id: string;
  private readonly folder: string;
  private readonly pages = new Set<string>();
  private readonly worn: string[] = [];

  constructor(plan: CoursePlan, id: string, folder: string) {
    this.plan = plan;
    this.id = id;
    this.folder = folder;
  }

  async build(): Promise<QCourse> {
    const { plan } = this;
    await this.write('content/style/quern.css', Buffer.from(STYLE));
    const notePages = (nodes: readonly NodePlan[]) => {
      for (const node of nodes) {
        if (node.kind === 'page') this.pages.add(node.title);
        if (node.kind === 'folder') notePages(node.inside);
      }
    };
    notePages(plan.outline);
    const nodes = await this.nodes(plan.outline);
    await this.addressWorn(nodes);
    const bank = await this.questions(plan.bank.questions, this.ref());
    const course = {
      id: this.id,
      code: plan.code,
      section: plan.section,
      term: plan.term,
      title: plan.title,
      owner: plan.owner,
      about: plan.about,
      keywords: plan.keywords,
      changedAt: plan.changedAt,
      nodes,
      banks: [{ ref: this.ref(), title: plan.bank.title, questions: bank }],
      ...untouched(),
    };
    const rich = furnish(course, await this.shared());
    const list = rich.people.map((p) => `${p.number},${p.name},${p.mail}`).join('\n');
    await this.write('people/class-list.csv', Buffer.from(`number,name,mail\n${list}\n`));
    return { ...course, rich, quota: 640 * 2 ** 20 };
  }

  /** Years of editing leave addresses of the platform in pages: they are known once every item has its reference. */
  private async addressWorn(nodes: readonly QNode[]): Promise<void> {
    const all = [...leaves(nodes)];
    for (const path of this.worn) {
      const file = join(this.folder, path);
      const html = await readFile(file, 'utf8');
      const addressed = html.replace(/@item ([^@]+)@/g, (_whole, title: string) => {
        const found = all.find((l) => l.title === title);
        if (!found) throw new Error(`a worn page refers to ${title}, which is not there`);
        return `${HOME}/course/${this.id}/item/${found.ref}`;
      });
      await writeFile(file, addressed);
    }
  }

  /** A sheet that lies in the repository of the whole college and is only linked here. */
  private async shared(): Promise<Record<string, string>> {
    const path = await this.write(
      'content/files/tool-book.pdf',
      await media.pdf('tool-book.pdf', ['Sign before you take.', 'Sign when you bring it back.']),
    );
    return { [path]: 'repository/safety/tool-book.pdf' };
  }

  private ref(): string {
    return `q${this.id.replace(/\D/g, '')}-${++this.count}`;
  }

  private async write(path: string, bytes: Uint8Array): Promise<string> {
    const target = join(this.folder, path);
    await mkdir(dirname(target), { recursive: true });
    await writeFile(target, bytes);
    return path;
  }

  private async nodes(plans: readonly NodePlan[]): Promise<QNode[]> {
    const nodes: QNode[] = [];
    for (const plan of plans) nodes.push(await this.node(plan));
    return nodes;
  }

  private async node(plan: NodePlan): Promise<QNode> {
    const ref = this.ref();
    switch (plan.kind) {
      case 'folder':
        return { kind: 'folder', ref, title: plan.title, about: plan.about, inside: await this.nodes(plan.inside) };
      case 'page':
        return {
          kind: 'page',
          ref,
          title: plan.title,
          path: await this.page(plan),
          tutorsOnly: plan.tutorsOnly ?? false,
          use: plan.use ?? null,
        };
      case 'file':
        return {
          kind: 'file',
          ref,
          title: plan.title,
          path: await this.write(`content/files/${plan.file.name}`, await makeFile(plan.file)),
        };
      case 'link':
        return { kind: 'link', ref, title: plan.title, url: plan.url, newWindow: plan.newWindow ?? false };
      case 'talk':
        return {
          kind: 'talk',
          ref,
          title: plan.title,
          text: this.text(plan.text),
          attached: await this.attach(ref, plan.attach ? [plan.attach] : []),
        };
      case 'task':
        return {
          kind: 'task',
          ref,
          title: plan.title,
          text: this.text(plan.text),
          points: plan.points,
          ways: plan.ways,
          notes: plan.notes ?? null,
          attached: await this.attach(ref, plan.attach ?? []),
        };
      case 'tool':
        return { kind: 'tool', ref, title: plan.title, url: plan.url, about: plan.about, parameters: plan.parameters };
      case 'words':
        return {
          kind: 'words',
          ref,
          title: plan.title,
          about: this.text(plan.about),
          words: await this.words(plan.words),
        };
      case 'quiz':
        return {
          kind: 'quiz',
          ref,
          title: plan.title,
          intro: this.text(plan.intro),
          tries: plan.tries,
          minutes: plan.minutes,
          questions: await this.questions(plan.questions, ref),
        };
    }
  }

  private async words(plans: Extract<NodePlan, { kind: 'words' }>['words']): Promise<QWord[]> {
    const made: QWord[] = [];
    for (const { word, means, picture } of plans) {
      const path = `content/pictures/word-${slug(word)}.png`;
      const pictures = picture ? [await this.write(path, media.picture(picture, word))] : [];
      made.push({ word, means: this.text(means), pictures });
    }
    return made;
  }

  private text(text: string): string {
    return text.startsWith('<') ? text : `<p>${escapeHtml(text)}</p>`;
  }

  private async page(plan: Extract<NodePlan, { kind: 'page' }>): Promise<string> {
    const name = slug(plan.title);
    const parts = [
      `<h1>${escapeHtml(plan.title)}</h1>`,
      ...plan.text.map((t) => `<p>${escapeHtml(t).replace(/\*([^*]+)\*/g, '<em>$1</em>')}</p>`),
    ];
    if (plan.picture) {
      await this.write(`content/pictures/${name}.png`, media.picture(plan.picture, plan.title));
      parts.splice(
        2,
        0,
        `<figure><img src="pictures/${name}.png" alt="Plate: ${escapeHtml(plan.title)}"><figcaption>${escapeHtml(plan.title)}</figcaption></figure>`,
      );
    }
    for (const other of plan.see ?? []) {
      if (!this.pages.has(other)) throw new Error(`${plan.title} refers to ${other}, which is no page`);
      parts.push(`<p class="see">See also <a href="${slug(other)}.html">${escapeHtml(other)}</a>.</p>`);
    }
    if (plan.download !== undefined) {
      parts.push(
        `<p>Take with you: <a href="files/${encodeURIComponent(plan.download)}">${escapeHtml(plan.download)}</a></p>`,
      );
    }
    if (plan.worn !== undefined) {
      parts.push(plan.worn);
      this.worn.push(`content/${name}.html`);
    }
    const html = `<!DOCTYPE html>\n<html lang="${this.plan.language ?? 'en'}"${this.plan.language === 'ar' ? ' dir="rtl"' : ''}>\n<head>\n<meta charset="utf-8">\n<title>${escapeHtml(plan.title)}</title>\n<link rel="stylesheet" href="style/quern.css">\n</head>\n<body>\n${parts.join('\n')}\n</body>\n</html>\n`;
    return this.write(`content/${name}.html`, Buffer.from(html));
  }

  private async attach(ref: string, files: readonly FilePlan[]): Promise<string[]> {
    const paths: string[] = [];
    for (const file of files) paths.push(await this.write(`q/${ref}/${file.name}`, await makeFile(file)));
    return paths;
  }

  private async questions(plans: readonly QuestionPlan[], holder: string): Promise<QQuestion[]> {
    const made: QQuestion[] = [];
    for (const plan of plans) made.push(await this.question(plan, holder));
    return made;
  }

  private async question(plan: QuestionPlan, holder: string): Promise<QQuestion> {
    const ref = this.ref();
    const picture = 'picture' in plan ? plan.picture : undefined;
    if (picture !== undefined)
      await this.write(`q/${holder}/${picture}`, media.picture(this.plan.drawing, picture, 240, 150));
    const shown = picture === undefined ? '' : ` <img src="$PLACE$${picture}" alt="${escapeHtml(plan.title)}">`;
    const common = {
      ref,
      title: plan.title,
      prompt: `<p>${escapeHtml(plan.prompt)}${shown}</p>`,
      points: plan.points,
      topic: 'topic' in plan ? (plan.topic ?? null) : null,
    };
    switch (plan.type) {
      case 'choice':
      case 'several':
        return {
          ...common,
          type: plan.type,
          choices: plan.choices.map((text, i) => ({ text, right: plan.right.includes(i) })),
          answers: [],
          feedback: plan.feedback ?? null,
          model: null,
        };
      case 'truth':
        return {
          ...common,
          type: plan.type,
          choices: [
            { text: 'True', right: plan.right },
            { text: 'False', right: !plan.right },
          ],
          answers: [],
          feedback: plan.feedback ?? null,
          model: null,
        };
      case 'blank':
      case 'pattern':
        return { ...common, type: plan.type, choices: [], answers: plan.answers, feedback: null, model: null };
      case 'essay':
        return { ...common, type: plan.type, choices: [], answers: [], feedback: null, model: plan.model ?? null };
    }
  }
}
