import { Profile, Refusal, courseName, problem, profileChanges, targetById } from '@treenail/core';
import { UniqueConstraintError } from 'sequelize';
import {
  Health,
  type NewPlatform,
  type Person,
  type PlatformChange,
  type PlatformSummary,
  type PlatformTest,
  type ProfileAnswer,
  type ProfileChange,
  type RemoteExportSummary,
} from '../contract/index.ts';
import { Copy, CourseRow, Instance, Job, ProfileVersion, User } from '../db/models/index.ts';
import { PATIENCE_MS } from '../jobs/worker.ts';
import {
  PLATFORMS,
  connectTo,
  isConnected,
  removeExport,
  type Connector,
  type SourceSide,
} from '../platforms/index.ts';
import type { Services } from './context.ts';
import { addInstance, connectorOf, kindOf, sealCredential } from './instances.ts';
import { jobsAt } from './jobs.ts';
import { pause } from './pauses.ts';
import { audit, mustBe } from './people.ts';

function missing(): Refusal {
  return new Refusal(problem('not-found', 'There is no such instance.', {}, 'Go back to the platforms.'));
}

async function instanceById(id: number): Promise<Instance> {
  const instance = await Instance.findByPk(id);
  if (!instance || !isConnected(instance.platform)) throw missing();
  return instance;
}

/** Asks a platform how it is. Never throws: that it does not answer is an answer. */
export async function healthOf(connector: Connector): Promise<Health> {
  const began = Date.now();
  const healthWith = (more: Pick<Health, 'ok' | 'queue' | 'each' | 'problem'>): Health => ({
    ...more,
    checkedAt: new Date().toISOString(),
    took: Date.now() - began,
  });
  try {
    const { queue, each } = await connector.about();
    return healthWith({ ok: true, queue, each, problem: null });
  } catch (error) {
    const why =
      error instanceof Refusal
        ? `${error.problem.message} ${error.problem.action}`
        : 'It does not answer. Look whether its address is right, and whether it is up.';
    return healthWith({ ok: false, queue: 0, each: 0, problem: why });
  }
}

export async function listPlatforms(services: Services): Promise<PlatformSummary[]> {
  const [instances, courses, copies, profiles] = await Promise.all([
    Instance.findAll({ order: [['name', 'ASC']] }),
    CourseRow.findAll({ attributes: ['id', 'instanceId'] }),
    Copy.findAll({ attributes: ['courseId'], where: { partial: false, removedAt: null } }),
    ProfileVersion.findAll({ attributes: ['instanceId', 'version'] }),
  ]);
  const kept = new Set(copies.map((c) => c.courseId));
  const failed = new Map<number, number>();
  if ((await Job.count({ where: { state: 'failed' } })) > 0) {
    for (const { id } of instances) failed.set(id, (await jobsAt(id)).filter((j) => j.state === 'failed').length);
  }
  return instances.flatMap((row): PlatformSummary[] => {
    if (!isConnected(row.platform)) return [];
    const own = courses.filter((c) => c.instanceId === row.id);
    const connector = kindOf(row);
    const keyProblem = whyClosed(services, row);
    const versions = profiles.filter((p) => p.instanceId === row.id).map((p) => p.version);
    return [
      {
        id: row.id,
        name: row.name,
        platform: row.platform,
        label: PLATFORMS.find((p) => p.id === row.platform)?.label ?? row.platform,
        baseUrl: row.baseUrl,
        gives: row.gives,
        fetches: connector.source !== null,
        takes: row.takes,
        leaving: row.cutOff !== null,
        listedAt: row.listedAt?.toISOString() ?? null,
        trouble: row.trouble,
        health: keyProblem ?? Health.nullable().parse(row.health ?? null),
        cutOff: row.cutOff ? { at: row.cutOff.toISOString(), why: row.cutOffWhy ?? '' } : null,
        courses: own.length,
        withoutCopy: row.gives ? own.filter((c) => !kept.has(c.id)).length : 0,
        forms: (connector.source?.forms ?? []).map(({ id, label, lacks }) => ({ id, label, lacks: [...lacks] })),
        takesAs: (connector.destination?.takes ?? []).map((t) => targetById(t.target).target.label),
        exportsCount: connector.source?.exportsCount ?? false,
        pausedAt: row.pausedAt?.toISOString() ?? null,
        patienceMinutes: row.patienceMinutes ?? PATIENCE_MS / 60_000,
        quiet: row.quiet ?? null,
        failedJobs: failed.get(row.id) ?? 0,
        profileVersion: connector.destination?.profile
          ? Math.max(connector.destination.profile.version, ...versions)
          : null,
      },
    ];
  });
}

/** That the token of an instance can not be opened, told as its health; `null` where it can. */
function whyClosed(services: Services, row: Instance): Health | null {
  try {
    connectorOf(services.config.secret, row);
    return null;
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    const { message, action } = error.problem;
    const at = new Date().toISOString();
    return { ok: false, checkedAt: at, took: 0, queue: 0, each: 0, problem: `${message} ${action}` };
  }
}

/** Tries an address and a token without keeping either. */
export async function testPlatform(person: Person, asked: NewPlatform): Promise<PlatformTest> {
  mustBe(person, 'administrator');
  const connector = connectTo(asked.platform, asked.baseUrl.replace(/\/$/, ''), asked.credential);
  const health = await healthOf(connector);
  if (!health.ok) return { health, courses: null };
  try {
    return { health, courses: (await connector.listCourses()).length };
  } catch (error) {
    const why = error instanceof Refusal ? error.problem.message : 'It does not list its courses.';
    return { health: { ...health, ok: false, problem: why }, courses: null };
  }
}

export async function addPlatform(services: Services, person: Person, asked: NewPlatform): Promise<number> {
  mustBe(person, 'administrator');
  if (await Instance.findOne({ where: { name: asked.name } })) {
    throw new Refusal(problem('name-taken', `There is an instance called ${asked.name}.`));
  }
  const { health } = await testPlatform(person, asked);
  if (!health.ok) {
    throw new Refusal(problem('platform-not-working', health.problem ?? 'It does not work.'));
  }
  const instance = await addInstance(services.config.secret, { ...asked, baseUrl: asked.baseUrl.replace(/\/$/, '') });
  await instance.update({ health });
  await audit(person, 'instance added', asked.name, { platform: asked.platform, baseUrl: asked.baseUrl });
  return instance.id;
}

export async function changePlatform(
  services: Services,
  person: Person,
  id: number,
  change: PlatformChange,
): Promise<void> {
  mustBe(person, 'administrator');
  const instance = await instanceById(id);
  if (change.credential !== undefined) {
    const connector = connectTo(instance.platform, instance.baseUrl, change.credential);
    const health = await healthOf(connector);
    if (!health.ok) {
      throw new Refusal(
        problem('platform-not-working', health.problem ?? 'It does not work.', {}, 'The old token was left in place.'),
      );
    }
    const credential = sealCredential(services.config.secret, change.credential);
    await instance.update({ credential, health, trouble: null });
    await audit(person, 'credential replaced', instance.name);
  }
  if (change.cutOff !== undefined) {
    const { cutOff } = change;
    await instance.update({ cutOff: cutOff ? new Date(cutOff.at) : null, cutOffWhy: cutOff?.why ?? null });
    await audit(person, 'cut-off set', instance.name, { cutOff });
  }
  if (change.paused !== undefined) {
    await pause(instance, change.paused);
    await audit(person, change.paused ? 'instance paused' : 'instance goes on', instance.name);
  }
  if (change.patienceMinutes !== undefined) {
    await instance.update({ patienceMinutes: change.patienceMinutes });
    await audit(person, 'patience set', instance.name, { minutes: change.patienceMinutes });
  }
  if (change.quiet !== undefined) {
    await instance.update({ quiet: change.quiet });
    await audit(person, 'quiet hours set', instance.name, { quiet: change.quiet });
  }
}

export async function checkPlatform(services: Services, id: number): Promise<Health> {
  const instance = await instanceById(id);
  const health = await healthOf(connectorOf(services.config.secret, instance));
  await instance.update({ health });
  return health;
}

/** What the instance can hold, as it was last set; at first as its connector says. */
export async function profileOf(instance: Instance, first: Profile): Promise<Profile> {
  const row = await ProfileVersion.findOne({ where: { instanceId: instance.id }, order: [['version', 'DESC']] });
  return row ? Profile.parse(row.content) : first;
}

/** The profile that the connector ships. */
function firstProfile(services: Services, instance: Instance): Profile {
  const profile = connectorOf(services.config.secret, instance).destination?.profile;
  if (profile) return profile;
  throw new Refusal(problem('no-profile', `${instance.name} takes no packages by a standard.`));
}

export async function profileAnswer(services: Services, id: number): Promise<ProfileAnswer> {
  const instance = await instanceById(id);
  const first = firstProfile(services, instance);
  const rows = await ProfileVersion.findAll({ where: { instanceId: id }, order: [['version', 'ASC']] });
  const people = new Map((await User.findAll()).map((u) => [u.id, u.name]));
  let before = first;
  const history = rows.map((row) => {
    const profile = Profile.parse(row.content);
    const changes = profileChanges(before, profile);
    before = profile;
    const by = people.get(row.changedBy ?? 0) ?? 'somebody';
    return { version: row.version, changedAt: row.changedAt.toISOString(), by, note: row.note, changes };
  });
  return { profile: before, history: history.reverse() };
}

/** A new version; the ones before stay as they were. */
export async function changeProfile(
  services: Services,
  person: Person,
  id: number,
  { profile, note }: ProfileChange,
): Promise<ProfileAnswer> {
  mustBe(person, 'administrator');
  const instance = await instanceById(id);
  const current = await profileOf(instance, firstProfile(services, instance));
  if (profile.version !== current.version) throw overtaken();
  if (profileChanges(current, profile).length === 0) {
    throw new Refusal(problem('nothing-changed', 'The profile is as it was.'));
  }
  const version = current.version + 1;
  try {
    await ProfileVersion.create({
      instanceId: id,
      version,
      content: { ...profile, id: current.id, label: current.label, version },
      changedBy: person.id,
      changedAt: new Date(),
      note,
    });
  } catch (error) {
    if (error instanceof UniqueConstraintError) throw overtaken();
    throw error;
  }
  await audit(person, 'profile changed', instance.name, { version, note });
  return profileAnswer(services, id);
}

function overtaken(): Refusal {
  return new Refusal(problem('overtaken', 'Somebody else changed this profile meanwhile.'));
}

/** Exports that lie at an instance, those that take room first. */
export async function exportsAt(services: Services, id: number): Promise<RemoteExportSummary[]> {
  const instance = await instanceById(id);
  const sourceSide = giverAt(services, instance);
  const [lying, courses] = await Promise.all([sourceSide.exports(), CourseRow.findAll({ where: { instanceId: id } })]);
  const byRemote = new Map(courses.map((c) => [c.remoteId, c]));
  return lying
    .map(({ remoteId, note, madeAt, ...rest }) => {
      const course = byRemote.get(remoteId);
      return {
        ...rest,
        course: course ? `${courseName(course)} ${course.title}` : remoteId,
        madeAt: madeAt?.toISOString() ?? null,
        ours: note.startsWith('treenail '),
      };
    })
    .sort((a, b) => (b.bytes ?? 0) - (a.bytes ?? 0));
}

/** Removes exports at an instance. One that is gone already is as good as removed. */
export async function clearExports(
  services: Services,
  person: Person,
  id: number,
  exports: readonly string[],
): Promise<RemoteExportSummary[]> {
  mustBe(person, 'administrator');
  const instance = await instanceById(id);
  const sourceSide = giverAt(services, instance);
  for (const exportId of exports) await removeExport(sourceSide, exportId);
  await audit(person, 'exports removed', instance.name, { exports });
  return exportsAt(services, id);
}

function giverAt(services: Services, instance: Instance): SourceSide {
  const sourceSide = connectorOf(services.config.secret, instance).source;
  if (sourceSide) return sourceSide;
  throw new Refusal(problem('can-not-fetch', `${instance.name} makes no exports.`, {}, 'Choose another instance.'));
}
