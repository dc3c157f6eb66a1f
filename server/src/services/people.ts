import { createHash, randomBytes } from 'node:crypto';
import { Refusal, problem } from '@treenail/core';
import { hash, verify } from '@node-rs/argon2';
import { Op } from 'sequelize';
import type { Person, Role } from '../contract/index.ts';
import { AuditEntry, Session, User } from '../db/models/index.ts';

const SESSION_HOURS = 12;

/** What the database knows a session by: nobody can sign in with it. */
export function sessionKey(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}

function asPerson(user: User): Person {
  return { id: user.id, name: user.name, email: user.email, role: user.role };
}

/** Hashed like a real password, so that an unknown address takes as long to refuse as a wrong password. */
const NOBODY = hash('nobody has this password');

/** @throws Refusal `sign-in-refused` */
export async function signIn(
  email: string,
  password: string,
): Promise<{ person: Person; token: string; expiresAt: Date }> {
  const user = await User.findOne({ where: { email } });
  const right = await verify(user?.passwordHash ?? (await NOBODY), password);
  if (!user || !right) {
    throw new Refusal(problem('sign-in-refused', 'The address or the password is not right.'));
  }
  const token = randomBytes(32).toString('base64url');
  const expiresAt = new Date(Date.now() + SESSION_HOURS * 3_600_000);
  await Session.create({ tokenHash: sessionKey(token), userId: user.id, expiresAt });
  return { person: asPerson(user), token, expiresAt };
}

export async function signOut(token: string): Promise<void> {
  await Session.destroy({ where: { tokenHash: sessionKey(token) } });
}

/** Which of these sessions are still open. */
export async function openSessions(keys: readonly string[]): Promise<Set<string>> {
  const rows = await Session.findAll({ where: { tokenHash: [...keys], expiresAt: { [Op.gt]: new Date() } } });
  return new Set(rows.map((row) => row.tokenHash));
}

export async function personOf(token: string): Promise<Person | null> {
  const session = await Session.findByPk(sessionKey(token));
  if (!session || session.expiresAt.getTime() < Date.now()) return null;
  const user = await User.findByPk(session.userId);
  return user ? asPerson(user) : null;
}

/** @throws Refusal `not-found` */
export async function personById(id: number): Promise<Person> {
  const user = await User.findByPk(id);
  if (!user) throw new Refusal(problem('not-found', 'There is no such person any more.'));
  return asPerson(user);
}

export async function addPerson(name: string, email: string, role: Role, password: string): Promise<void> {
  await User.findOrCreate({ where: { email }, defaults: { name, email, role, passwordHash: await hash(password) } });
}

/** @throws Refusal `not-allowed` */
export function mustBe(person: Person, role: Role): void {
  if (person.role !== role) {
    throw new Refusal(problem('not-allowed', `This is for the ${role} only.`));
  }
}

/** Every act that changes a course, a copy or a platform goes into the trail. */
export async function audit(person: Person | null, act: string, subject: string, detail: unknown = {}): Promise<void> {
  await AuditEntry.create({ at: new Date(), userId: person?.id ?? null, act, subject, detail });
}
