import nodemailer from 'nodemailer';
import { MailChoice, type Person } from '../api/contract.ts';
import type { Config } from '../config.ts';
import { Copy, Job, Move, User } from '../db/models.ts';
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

/** Puts a mail into the queue for whoever asked for a job that took long and is over. Once for each end of a job. */
export async function tellByMail(config: Config, job: Job): Promise<void> {
  if (config.smtp === null || !['done', 'failed'].includes(job.state) || job.finishedAt === null) return;
  if (job.finishedAt.getTime() - job.createdAt.getTime() < config.mailAfterMs) return;
  const user = await askerOf(job);
  if (!user || !choiceOf(user)[job.state === 'done' ? 'done' : 'failed']) return;
  await enqueue({
    kind: 'mail',
    key: `mail:${job.id}:${job.finishedAt.getTime()}`,
    course: job.course,
    moveId: null,
    input: { jobId: job.id, userId: user.id },
    words: `telling ${user.email}`,
  });
}

async function linkOf(job: Job, address: string): Promise<string> {
  if (job.moveId !== null) return `${address}/moves/${job.moveId}`;
  if (job.state === 'failed' || job.courseId === null)
    return `${address}/courses?find=${encodeURIComponent(job.course)}`;
  const copy = await Copy.findOne({ where: { courseId: job.courseId }, order: [['id', 'DESC']] });
  return copy ? `${address}/strongroom?copy=${copy.id}` : `${address}/strongroom`;
}

export async function sendMail(config: Config, jobId: number, userId: number): Promise<void> {
  const [job, user] = await Promise.all([Job.findByPk(jobId), User.findByPk(userId)]);
  if (!job || !user || config.smtp === null) return;
  const done = job.state === 'done';
  const transport = nodemailer.createTransport(config.smtp);
  const lines = [
    done ? `${job.course}: ${job.words}.` : `${job.course}: ${job.problem?.message ?? 'it failed.'}`,
    ...(done ? [] : [job.problem?.action ?? 'Try it again.']),
    '',
    await linkOf(job, config.address),
    '',
    'What you are told by mail is yours to choose: in Treenail, under your initials.',
  ];
  await transport.sendMail({
    from: 'Treenail <treenail@marrowick.example>',
    to: { name: user.name, address: user.email },
    subject: `${job.course}: ${WORDS[job.kind] ?? job.kind} ${done ? 'is done' : 'failed'}`,
    text: lines.join('\n'),
  });
}

const WORDS: Partial<Record<Job['kind'], string>> = {
  fetch: 'the fetch',
  look: 'the look inside',
  build: 'the build',
  deliver: 'the delivery',
  check: 'the check',
  intake: 'the file',
};
