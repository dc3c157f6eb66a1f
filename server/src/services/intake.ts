import { createHash } from 'node:crypto';
import { courseName, nameByRule } from '@treenail/core';
import type { CopySummary, Intake, Person } from '../api/contract.ts';
import { Copy, CourseRow, Instance } from '../db/models.ts';
import { enqueue } from '../jobs/queue.ts';
import { namingRule } from './house.ts';
import { audit, mustBe } from './people.ts';
import { asCopySummary } from './strongroom.ts';

/** What was read of a file before it is kept. */
export interface Judged {
  sha256: string;
  size: number;
  title: string;
  format: string;
  items: number;
}

/** Takes an uploaded file in: it is read, kept in the strongroom, and its course stands in the register. */
export async function takeIn(person: Person, uploadId: string, asked: Intake): Promise<number> {
  mustBe(person, 'administrator');
  const job = await enqueue({
    kind: 'intake',
    key: `intake:${uploadId}`,
    course: courseName(asked) || asked.fileName.slice(0, 60),
    moveId: null,
    input: { uploadId, owner: person.email, asked },
    words: `reading ${asked.fileName}`.slice(0, 290),
  });
  await audit(person, 'file taken in', asked.fileName.slice(0, 190), { uploadId });
  return job.id;
}

/** The instance under which courses known from files stand. */
export function filesInstance(): Promise<Instance> {
  return Instance.findOne({ where: { platform: 'files' }, rejectOnEmpty: true });
}

/** A course is the same as one taken in before if a person would call it so: code, section, term and title. */
function identityOf({ code, section, term }: Intake, title: string): string {
  const words = [code, section, term, title].map((w) => w.trim().toLowerCase()).join('\n');
  return createHash('sha256').update(words).digest('hex').slice(0, 40);
}

/** Writes a file that lies in the store into the register and the strongroom. The same file makes one copy. */
export async function keepFile(asked: Intake, owner: string, judged: Judged): Promise<CopySummary> {
  const instance = await filesInstance();
  const title = asked.title || judged.title;
  const now = new Date();
  const { code, section, term } = asked;
  const [course] = await CourseRow.findOrCreate({
    where: { instanceId: instance.id, remoteId: identityOf(asked, title) },
    defaults: {
      instanceId: instance.id,
      remoteId: identityOf(asked, title),
      code,
      section,
      term,
      title,
      owner,
      size: judged.size,
      changedAt: now,
    },
  });
  const [copy, fresh] = await Copy.findOrCreate({
    where: { sourceKey: `file ${judged.sha256} ${course.id}` },
    defaults: {
      courseId: course.id,
      fileName: nameByRule({ code, section, term, title }, now, extensionOf(asked.fileName), await namingRule()),
      code,
      section,
      term,
      title,
      instanceName: instance.name,
      format: judged.format,
      size: judged.size,
      sha256: judged.sha256,
      items: judged.items,
      keptAt: now,
      sourceKey: `file ${judged.sha256} ${course.id}`,
    },
  });
  if (fresh) await course.update({ size: judged.size, changedAt: now });
  return asCopySummary(copy, null);
}

function extensionOf(fileName: string): string {
  return /\.(tar\.gz|[a-z0-9]{1,8})$/i.exec(fileName)?.[1]?.toLowerCase() ?? 'zip';
}
