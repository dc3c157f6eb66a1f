import type { Drawing } from './media.ts';

/** The words in which the demo's courses are written down; `build.ts` makes real courses and files of them. */
export type QuestionPlan =
  | {
      type: 'choice' | 'several';
      title: string;
      prompt: string;
      choices: string[];
      right: number[];
      feedback?: string;
      points: number;
      topic?: string;
      picture?: string;
    }
  | { type: 'truth'; title: string; prompt: string; right: boolean; feedback?: string; points: number; topic?: string }
  | { type: 'blank' | 'pattern'; title: string; prompt: string; answers: string[]; points: number; topic?: string }
  | { type: 'essay'; title: string; prompt: string; model?: string; points: number; topic?: string };

export type FilePlan =
  | { make: 'pdf' | 'docx' | 'pptx'; name: string; lines: string[] }
  | { make: 'xlsx'; name: string; rows: (string | number)[][] }
  | { make: 'ics'; name: string; events: { day: string; from?: string; to?: string; title: string }[] }
  | { make: 'mp3'; name: string; hertz: number }
  | { make: 'wav' | 'mp4'; name: string; bytes: number }
  | { make: 'png'; name: string; drawing: Drawing };

export type NodePlan =
  | { kind: 'folder'; title: string; about?: string; inside: NodePlan[] }
  | {
      kind: 'page';
      title: string;
      text: string[];
      picture?: Drawing;
      see?: string[];
      download?: string;
      tutorsOnly?: boolean;
      use?: 'syllabus' | 'lessonplan';
      /** Mark-up as years of editing leave it; `@item Title@` stands for the address of an item on the platform. */
      worn?: string;
    }
  | { kind: 'file'; title: string; file: FilePlan }
  | { kind: 'link'; title: string; url: string; newWindow?: boolean }
  | { kind: 'talk'; title: string; text: string; attach?: FilePlan }
  | {
      kind: 'task';
      title: string;
      text: string;
      points: number;
      ways: ('file' | 'text' | 'url')[];
      notes?: string;
      attach?: FilePlan[];
    }
  | { kind: 'tool'; title: string; url: string; about: string; parameters: Record<string, string> }
  | { kind: 'words'; title: string; about: string; words: { word: string; means: string; picture?: Drawing }[] }
  | { kind: 'quiz'; title: string; intro: string; tries: number; minutes: number; questions: QuestionPlan[] };

export interface CoursePlan {
  code: string;
  section: string;
  term: string;
  title: string;
  owner: string;
  changedAt: string;
  about: string;
  keywords: string[];
  drawing: Drawing;
  /** Of its pages (BCP 47); English where it is not given. */
  language?: string;
  outline: NodePlan[];
  bank: { title: string; questions: QuestionPlan[] };
}

export const folder = (title: string, ...inside: NodePlan[]): NodePlan => ({ kind: 'folder', title, inside });
type PageOptions = Omit<Extract<NodePlan, { kind: 'page' }>, 'kind' | 'title' | 'text'>;
export const page = (title: string, text: string | string[], options: PageOptions = {}): NodePlan => ({
  kind: 'page',
  title,
  text: Array.isArray(text) ? text : [text],
  ...options,
});
export const file = (title: string, plan: FilePlan): NodePlan => ({ kind: 'file', title, file: plan });
export const link = (title: string, url: string, newWindow = false): NodePlan => ({
  kind: 'link',
  title,
  url,
  newWindow,
});
export const talk = (title: string, text: string, attach?: FilePlan): NodePlan => ({
  kind: 'talk',
  title,
  text,
  ...(attach ? { attach } : {}),
});

/** Choices with a star before the right ones; a bar parts a choice from its feedback. */
export function mc(
  title: string,
  prompt: string,
  choices: string[],
  more: { points?: number; feedback?: string; topic?: string; picture?: string } = {},
): QuestionPlan {
  const right = choices.flatMap((c, i) => (c.startsWith('*') ? [i] : []));
  return {
    type: right.length > 1 ? 'several' : 'choice',
    title,
    prompt,
    choices: choices.map((c) => c.replace(/^\*/, '')),
    right,
    points: 2,
    ...more,
  };
}
export const tf = (
  title: string,
  prompt: string,
  right: boolean,
  more: { feedback?: string; topic?: string } = {},
): QuestionPlan => ({
  type: 'truth',
  title,
  prompt,
  right,
  points: 1,
  ...more,
});
export const blank = (title: string, prompt: string, answers: string[], topic?: string): QuestionPlan => ({
  type: 'blank',
  title,
  prompt,
  answers,
  points: 1,
  ...(topic === undefined ? {} : { topic }),
});
export const pattern = (title: string, prompt: string, answers: string[], topic?: string): QuestionPlan => ({
  type: 'pattern',
  title,
  prompt,
  answers,
  points: 1,
  ...(topic === undefined ? {} : { topic }),
});
export const essay = (title: string, prompt: string, model?: string, points = 8): QuestionPlan => ({
  type: 'essay',
  title,
  prompt,
  points,
  ...(model === undefined ? {} : { model }),
});
