import { Refusal, describedFormat, problem, readDescription, type Format } from '@treenail/core';
import { UniqueConstraintError } from 'sequelize';
import type { DescriptionAnswer, DescriptionSummary, NewDescription, Person } from '../contract/index.ts';
import { DescriptionVersion, User } from '../db/models/index.ts';
import { audit, mustBe } from './people.ts';

/** The newest version of every description. */
async function newest(): Promise<DescriptionVersion[]> {
  const rows = await DescriptionVersion.findAll({
    order: [
      ['archive', 'ASC'],
      ['version', 'ASC'],
    ],
  });
  return [...new Map(rows.map((row) => [row.archive, row])).values()];
}

export async function listDescriptions(): Promise<DescriptionSummary[]> {
  return (await newest()).map(({ archive, version, text, inUse, changedAt }) => ({
    archive,
    name: readDescription(text).description?.name ?? archive,
    version,
    text,
    inUse,
    changedAt: changedAt.toISOString(),
  }));
}

export async function descriptionOf(archive: string): Promise<DescriptionAnswer> {
  const rows = await DescriptionVersion.findAll({ where: { archive }, order: [['version', 'DESC']] });
  const [row] = rows;
  if (!row)
    throw new Refusal(problem('not-found', 'There is no such description.', {}, 'Choose another from the list.'));
  const people = new Map((await User.findAll()).map((u) => [u.id, u.name]));
  return {
    archive,
    inUse: row.inUse,
    versions: rows.map(({ version, text, note, changedBy, changedAt }) => ({
      version,
      text,
      note,
      changedBy: changedBy === null ? null : (people.get(changedBy) ?? null),
      changedAt: changedAt.toISOString(),
    })),
  };
}

/**
 * Keeps a description as a new version of the one of its identifier; the same text again changes nothing.
 * @throws Refusal what is wrong with it first, and `version-taken` where somebody else kept one meanwhile
 */
export async function keepDescription(person: Person, asked: NewDescription): Promise<DescriptionAnswer> {
  mustBe(person, 'administrator');
  const { description, problems } = readDescription(asked.text);
  if (!description) {
    throw new Refusal(problems[0] ?? problem('description-malformed', 'It is empty.', {}, 'Write a description.'));
  }
  const last = await DescriptionVersion.findOne({ where: { archive: description.id }, order: [['version', 'DESC']] });
  if ((last?.version ?? 0) !== asked.after) throw taken(description.id);
  if (last?.text !== asked.text || last.inUse !== asked.inUse) {
    try {
      await DescriptionVersion.create({
        archive: description.id,
        version: asked.after + 1,
        text: asked.text,
        inUse: asked.inUse,
        note: asked.note,
        changedBy: person.id,
        changedAt: new Date(),
      });
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw taken(description.id);
      throw error;
    }
    await audit(person, 'description kept', description.id, { version: asked.after + 1, inUse: asked.inUse });
  }
  return descriptionOf(description.id);
}

function taken(archive: string): Refusal {
  return new Refusal(
    problem('version-taken', `There is a newer version of ${archive} than the one this was written over.`),
  );
}

/** The formats of all descriptions in use, in the order of their identifiers. */
export async function describedFormats(): Promise<Format[]> {
  return (await newest()).flatMap(({ text, inUse }) => {
    // One that an older Treenail could read and this one can't is passed by, not in everybody's way.
    const { description } = inUse ? readDescription(text) : {};
    return description ? [describedFormat(description)] : [];
  });
}
