import { Op } from 'sequelize';
import { Refusal, problem, type TransferReport } from '@treenail/core';
import type { Person, ReportSummary } from '../contract/index.ts';
import { CourseRow, Move, MoveDocument } from '../db/models/index.ts';
import { readDocument } from './documents.ts';
import { audit } from './people.ts';
import { courseToSend } from './working.ts';

/** Instructors read the reports of the courses they own, administrators all. */
export async function listReports(person: Person): Promise<ReportSummary[]> {
  const written = await MoveDocument.findAll({
    where: { kind: 'report' },
    attributes: ['moveId', 'writtenAt'],
    order: [['writtenAt', 'DESC']],
  });
  const moves = await Move.findAll({ where: { id: { [Op.in]: written.map((w) => w.moveId) } } });
  const courses = await CourseRow.findAll({ where: { id: { [Op.in]: moves.map((m) => m.courseId) } } });
  const reports: ReportSummary[] = [];
  for (const { moveId } of written) {
    const course = courses.find((c) => c.id === moves.find((m) => m.id === moveId)?.courseId);
    if (!course || !mayRead(person, course)) continue;
    const report = await readDocument(moveId, 'report');
    reports.push({
      moveId,
      code: course.code,
      section: course.section,
      title: course.title,
      destination: report.destination,
      checkedAt: report.checkedAt,
      totals: report.totals,
    });
  }
  return reports;
}

function mayRead(person: Person, course: CourseRow): boolean {
  return person.role === 'administrator' || course.owner === person.email;
}

/** @throws Refusal `not-found`, also for a report that the person may not read */
export async function reportOf(person: Person, moveId: number): Promise<TransferReport> {
  const move = await Move.findByPk(moveId);
  const course = move ? await CourseRow.findByPk(move.courseId) : null;
  if (!course || !mayRead(person, course)) {
    throw new Refusal(
      problem('not-found', 'There is no such report among yours.', {}, 'Go back to the list of reports.'),
    );
  }
  return readDocument(moveId, 'report');
}

/** Passwords of what was sent, for whoever may read the report and enters them again. That it was asked goes into the trail. */
export async function passwordsOf(person: Person, moveId: number): Promise<{ title: string; password: string }[]> {
  await reportOf(person, moveId);
  const course = await courseToSend(moveId);
  await audit(person, 'passwords shown', `move ${moveId}`);
  return course.items.flatMap(({ title, settings: { password } }) =>
    typeof password === 'string' && password !== '' ? [{ title, password }] : [],
  );
}
