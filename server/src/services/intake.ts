import { FILES } from '../platforms/index.ts';
import { createHash } from 'node:crypto';
import { courseName, nameByRule, type Identity } from '@treenail/core';
import type { CopySummary, Intake, Person } from '../contract/index.ts';
import { Copy, CourseRow, Instance } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { namingRule } from './settings.ts';
import { audit, mustBe } from './people.ts';
import { asCopySummary, markSound, nameOfItsOwn } from './strongroom.ts';

/** What was read of a file before it is kept. */
export interface Judged {
  sha256: string;
  size: number;
  title: string;
  format: string;
  items: number;
  /** Those that stand in the outline. */
  shown: number;
  /** A platform's own archive. */
  own: boolean;
  /** It has something in it that belongs to people. */
  personal: boolean;
  /** Format of the package: that of a platform is called as the platform is. */
  platform: string;
  /** What the platform that made it calls the course. */
  identity?: Identity | undefined;
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
    of: asked.fileName,
  });
  await audit(person, 'file taken in', asked.fileName.slice(0, 190), { uploadId });
  return job.id;
}

/** The instance under which courses known from files stand. */
export function filesInstance(): Promise<Instance> {
  return Instance.findOne({ where: { platform: FILES }, rejectOnEmpty: true });
}

/** A course is the same as one taken in before if a person would call it so: code, section, term and title. */
function identityOf({ code, section, term, title }: Said): string {
  const words = [code, section, term, title].map((w) => w.trim().toLowerCase()).join('\n');
  return createHash('sha256').update(words).digest('hex').slice(0, 40);
}

/** Writes a file that lies in the store into the register and the strongroom. The same file makes one copy. */
export async function keepFile(intake: Intake, owner: string, judged: Judged): Promise<CopySummary> {
  const instance = await filesInstance();
  const title = intake.title || judged.title;
  const now = new Date();
  const known = judged.identity;
  const identity = {
    code: intake.code || (known?.code ?? ''),
    section: intake.section || (known?.section ?? ''),
    term: intake.term || (known?.term ?? ''),
    title,
  };
  const { code, section, term } = identity;
  const course = await courseFor(intake, identity, { owner, judged });
  const from = await Instance.findByPk(course.instanceId, { rejectOnEmpty: true });
  const [copy, fresh] = await Copy.findOrCreate({
    where: { sourceKey: `file ${judged.sha256} ${course.id}` },
    defaults: {
      courseId: course.id,
      fileName: await nameOfItsOwn(
        nameByRule({ code, section, term, title }, now, extensionOf(intake.fileName), await namingRule()),
        { personal: judged.personal },
      ),
      code,
      section,
      term,
      title,
      instanceName: from.id === instance.id ? instance.name : `${from.name}, from a file`,
      format: judged.format,
      size: judged.size,
      sha256: judged.sha256,
      items: judged.items,
      shown: judged.shown,
      form: judged.own ? 'archive' : 'standard',
      personal: judged.personal,
      keptAt: now,
      sourceKey: `file ${judged.sha256} ${course.id}`,
    },
  });
  await markSound(judged.sha256);
  // What was removed before is kept again.
  if (copy.removedAt) await copy.update({ removedAt: null, removedWhy: null, keptAt: now });
  if (fresh && course.instanceId === instance.id) await course.update({ size: judged.size, changedAt: now });
  return asCopySummary(copy, null);
}

interface Said {
  code: string;
  section: string;
  term: string;
  title: string;
}

/** The course that the file is said to be a copy of, or that its platform calls so; else one that stands under the files. */
async function courseFor(
  asked: Intake,
  said: Said,
  { owner, judged }: { owner: string; judged: Judged },
): Promise<CourseRow> {
  const named = asked.courseId === undefined ? await courseOfPlatform(judged, said) : await courseNamed(asked.courseId);
  if (named) return named;
  const { id: instanceId } = await filesInstance();
  const remoteId = identityOf(said);
  const [course] = await CourseRow.findOrCreate({
    where: { instanceId, remoteId },
    defaults: { ...said, instanceId, remoteId, owner, size: judged.size, changedAt: new Date() },
  });
  return course;
}

function courseNamed(id: number): Promise<CourseRow> {
  return CourseRow.findByPk(id, { rejectOnEmpty: true });
}

/**
 * An archive says by which identifier its platform knows the course. It is that of a course in the register only if
 * everything else that it says is the same too: two installations of one platform may use one identifier twice.
 */
async function courseOfPlatform({ platform, identity }: Judged, said: Said): Promise<CourseRow | null> {
  if (!identity) return null;
  const instances = await Instance.findAll({ where: { platform } });
  const { id, code, section, term } = identity;
  const rows = await CourseRow.findAll({
    where: {
      ...said,
      code,
      section,
      term,
      instanceId: instances.map((i) => i.id),
      ...(id === '' ? {} : { remoteId: id }),
    },
  });
  return rows.length === 1 ? (rows[0] ?? null) : null;
}

function extensionOf(fileName: string): string {
  return /\.(tar\.gz|[a-z0-9]{1,8})$/i.exec(fileName)?.[1]?.toLowerCase() ?? 'zip';
}
