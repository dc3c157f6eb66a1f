import nodemailer from 'nodemailer';
import { MailChoice, type Person } from '../contract/index.ts';
import type { Config } from '../config.ts';
import { Copy, Job, Move, User } from '../db/models/index.ts';
import { definitionOf } from '../jobs/definitions.ts';
import { enqueue } from '../jobs/queue.ts';

/** What a person wants to be told by mail; both, where they never chose. */
export function choiceOf(user: Pick<User, 'mail'>): MailChoice {
  const read = MailChoice.safeParse(user.mail);
  return read.success ? read.data : { done: true, failed: true };
}

export async function mailChoice(person: Person): Promise<MailChoice> {
  return choiceOf(await User.findByPk(person.id, { rejectOnEmpty: true }));
}

export async function setMailChoice(person: Person, choice: MailChoice): Promise<MailChoice> {
  await User.update({ mail: choice }, { where: { id: person.id } });
  return choice;
}

async function askerOf(job: Job): Promise<User | null> {
  const move = job.askedBy === null && job.moveId !== null ? await Move.findByPk(job.moveId) : null;
  const id = job.askedBy ?? move?.createdBy ?? null;
  return id === null ? null : User.findByPk(id);
}

/**
 * Puts a mail into the queue for whoever asked for a job that took long and is over. Once for each end of a job; of many
 * that one act asked for, once, when the last of them is over.
 */
export async function tellByMail(config: Config, job: Job): Promise<void> {
  if (config.smtp === null || !['done', 'failed'].includes(job.state) || job.finishedAt === null) return;
  const all = job.batch ? await Job.findAll({ where: { batch: job.batch } }) : [job];
  if (all.some((j) => j.finishedAt === null)) return;
  const ended = Math.max(...all.map((j) => j.finishedAt?.getTime() ?? 0));
  if (ended - job.createdAt.getTime() < config.mailAfterMs) return;
  const user = await askerOf(job);
  const failed = all.some((j) => j.state === 'failed');
  if (!user || !choiceOf(user)[failed ? 'failed' : 'done']) return;
  await enqueue({
    kind: 'mail',
    key: `mail:${job.batch ?? job.id}:${ended}`,
    course: all.length === 1 ? job.course : `${all.length} courses`,
    moveId: null,
    input: { jobId: job.id, userId: user.id },
    of: user.email,
  });
}

async function linkOf(job: Job, address: string): Promise<string> {
  if (job.moveId !== null) return `${address}/moves/${job.moveId}`;
  if (job.state === 'failed' || job.courseId === null)
    return `${address}/courses?words=${encodeURIComponent(job.course)}`;
  const copy = await Copy.findOne({ where: { courseId: job.courseId }, order: [['id', 'DESC']] });
  return copy ? `${address}/strongroom?copy=${copy.id}` : `${address}/strongroom`;
}

export async function sendMail(config: Config, jobId: number, userId: number): Promise<void> {
  const [job, user] = await Promise.all([Job.findByPk(jobId), User.findByPk(userId)]);
  if (!job || !user || config.smtp === null) return;
  const all = job.batch ? await Job.findAll({ where: { batch: job.batch }, order: [['id', 'ASC']] }) : [job];
  const transport = nodemailer.createTransport(config.smtp);
  const letter = all.length === 1 ? aboutOne(job) : aboutMany(all);
  const link = all.length === 1 ? await linkOf(job, config.address) : `${config.address}/strongroom`;
  const foot = 'What you are told by mail is yours to choose: in Treenail, under your initials.';
  await transport.sendMail({
    from: 'Treenail <treenail@marrowick.example>',
    to: { name: oneLine(user.name), address: user.email },
    subject: letter.subject,
    text: [...letter.lines, '', link, '', foot].join('\n'),
  });
}

/** A title may hold line breaks, by which words of a stranger would stand in a mail as its own. */
function oneLine(text: string): string {
  return text
    .replace(/[\p{Cc}\p{Zl}\p{Zp}]+/gu, ' ')
    .trim()
    .slice(0, 300);
}

interface Said {
  subject: string;
  lines: string[];
}

function aboutOne(job: Job): Said {
  const done = job.state === 'done';
  const course = oneLine(job.course);
  const what = done ? `${oneLine(job.words)}.` : oneLine(job.problem?.message ?? 'it failed.');
  return {
    subject: `${course}: ${definitionOf(job.kind).mail ?? job.kind} ${done ? 'is done' : 'failed'}`,
    lines: [`${course}: ${what}`, ...(done ? [] : [oneLine(job.problem?.action ?? 'Try it again.')])],
  };
}

/** Those that failed come first, each with its reason; those that are done are counted. */
function aboutMany(jobs: readonly Job[]): Said {
  const failed = jobs.filter((j) => j.state === 'failed');
  const off = jobs.filter((j) => j.state === 'called off').length;
  const done = jobs.length - failed.length - off;
  const kind = definitionOf(jobs[0]?.kind ?? 'fetch').mail ?? '';
  return {
    subject: `${kind} of ${jobs.length} courses: ${done} done${failed.length > 0 ? `, ${failed.length} failed` : ''}`,
    lines: [
      `${done} of ${jobs.length} courses are done${off > 0 ? `, ${off} were called off` : ''}.`,
      ...failed.map((j) => `${oneLine(j.course)}: ${oneLine(j.problem?.message ?? 'it failed.')}`),
    ],
  };
}
