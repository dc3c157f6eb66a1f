/**
 * The demo in the middle of its work: kept copies of two terms, moves at several steps, reports, rules, a profile that was
 * set right. All of it is asked for through Treenail's own interface and made by its services and the stand-ins, whose
 * pace is set to nothing meanwhile.
 */
import { setTimeout as pause } from 'node:timers/promises';

/** How long anything may take before the past is given up. */
const PATIENCE_MS = 8 * 60_000;

/** Courses whose moves stand somewhere, by code and section; the rest is only fetched. */
const HANDED_OVER = ['EST 120-01', 'CHT 210-01', 'TID 200-A'];
const AT = {
  tidy: 'NAV 101-02',
  fit: 'CON 305-01',
  deliver: 'ENG 130-01',
  calledOff: 'CON 305-02',
  failed: 'HIS 150-01',
};
/** What nobody has kept a copy of yet. */
const FORGOTTEN = ['BTB 210-01', 'MET 115-01', 'ARB 101-01', 'SWM 100-A', 'RAD 101-A'];

/** @param up what `bringUp` gave @param person who asks for all of it: an administrator */
export async function makePast(up, person) {
  const treenail = await signedIn(up.address, person);
  await setPace(up, 0);
  try {
    await live(treenail, up);
  } finally {
    await setPace(up, null);
  }
}

async function live(treenail, up) {
  const { ask, until } = treenail;
  const named = (course) => `${course.code}${course.section ? `-${course.section}` : ''}`;
  const register = await until('the register', async () => {
    const [{ rows: courses }, instances] = [await ask('/courses?limit=1000'), await ask('/instances')];
    // What was given as a file is listed by nobody.
    const listing = instances.filter((i) => i.fetches || i.takes);
    return listing.every((i) => i.listedAt !== null) && courses.length > 40 ? courses : null;
  });
  const courses = new Map(register.map((c) => [`${named(c)} ${c.instance.name}`, c]));
  const find = (name) => [...courses].find(([key]) => key.startsWith(`${name} `))?.[1];
  const [live, trial] = await destinations(ask);

  // A term ago: what was kept then as a file, of most courses of the college.
  const old = [...courses.values()].filter((c) => c.instance.platform === 'quernhold' && !FORGOTTEN.includes(named(c)));
  await fetchAll(treenail, old.slice(0, 20), 'standard');
  const { rows: copies } = await ask('/copies?limit=1000');
  for (const copy of copies.slice(0, 18)) {
    const bytes = await treenail.bytes(`/copies/${copy.id}/file`);
    await treenail.keep(bytes, {
      fileName: `${copy.code} ${copy.section} spring.imscc`,
      courseId: String(copy.courseId),
      code: copy.code,
      section: copy.section,
      term: 'Spring 2026',
      title: copy.title,
    });
  }
  await settled(treenail);
  for (const { id } of copies.slice(0, 16)) {
    await ask(`/copies/${id}/remove`, 'POST', { reason: 'The archive of the same course holds more' });
  }

  // This term: the platforms' own archives.
  const now = [...courses.values()].filter((c) => c.instance.fetches && !FORGOTTEN.includes(named(c)) && !gone(c));
  await fetchAll(
    treenail,
    now.filter((c) => named(c) !== AT.failed),
    'archive',
  );

  const start = async (name, to = live) => {
    const course = find(name);
    if (!course) throw new Error(`There is no course ${name}.`);
    const { copies: kept } = await ask(`/courses/${course.id}/beginnings`);
    const copy = kept.find((c) => c.form === 'archive') ?? kept[0];
    return ask('/moves', 'POST', {
      courseId: course.id,
      destinationId: to.id,
      ...(copy ? { copyId: copy.id } : {}),
    });
  };
  const reaches = (move, ...steps) =>
    until(`move ${move.id} at ${steps.join(' or ')}`, async () => {
      const at = await ask(`/moves/${move.id}`);
      const failed = at.steps.find((s) => s.state === 'failed');
      if (failed) throw new Error(`Move ${move.id} failed at ${failed.step}: ${failed.result}`);
      return steps.includes(at.at) && at.steps.some((s) => s.step === at.at && s.state === 'here') ? at : null;
    });

  // What was learned in a rehearsal.
  await rehearse(ask, trial);
  const moves = new Map();
  for (const name of [...HANDED_OVER, AT.tidy, AT.fit, AT.deliver, AT.calledOff]) moves.set(name, await start(name));
  for (const move of moves.values()) await reaches(move, 'tidy', 'fit');
  await decide(ask, moves.get(AT.tidy), 3);
  await decide(ask, moves.get(HANDED_OVER[0]), 2, true);
  for (const name of [...HANDED_OVER, AT.fit, AT.deliver]) await useDates(ask, moves.get(name));
  for (const name of [...HANDED_OVER, AT.deliver]) await accept(treenail, moves.get(name));
  for (const name of [...HANDED_OVER, AT.deliver]) await reaches(moves.get(name), 'deliver');
  for (const name of HANDED_OVER) {
    const { course, id } = moves.get(name);
    const { section, title } = course;
    await ask(`/moves/${id}/deliver`, 'POST', { section: section || 'A', term: 'Spring 2027', title });
  }
  for (const name of HANDED_OVER) await reaches(moves.get(name), 'hand-over');
  await ask(`/moves/${moves.get(AT.calledOff).id}/call-off`, 'POST');
  await failing(treenail, up, find(AT.failed), live);
  await ask('/filters', 'POST', {
    name: 'Before Fenwright closes',
    filter: { words: 'Fenwright', instance: null, lacks: 'cut-off' },
  });
  await ask('/jobs/seen', 'POST');
}

/** Dates go into the term that comes after, where the calendar knows it; those of other years stay. */
async function useDates(ask, { id }) {
  const { terms, from, to } = await ask(`/moves/${id}/re-date`);
  const [then, next] = [from, to].map((name) => terms.find((t) => t.name === name));
  if (!then || !next) return;
  const rule = { is: 'term', from: then, to: next };
  await ask(`/moves/${id}/re-date`, 'PUT', { rule, others: [], byHand: {}, texts: {}, allTexts: true });
}

const gone = (course) => course.instance.name.includes('Rehearsal') || course.instance.platform === 'tarnhall';

async function destinations(ask) {
  const takes = (await ask('/instances')).filter((i) => i.takes && i.platform === 'tarnhall');
  const live = takes.find((i) => i.name.includes('New')) ?? takes[0];
  return [live, takes.find((i) => i !== live) ?? live];
}

async function fetchAll(treenail, courses, form) {
  await treenail.ask('/fetches', 'POST', {
    courseIds: courses.map((c) => c.id),
    options: { form, parts: null, copyLinked: true, personal: false, reason: '', removeAfter: true },
  });
  await settled(treenail);
}

/** Waits until nothing runs and nothing waits. */
function settled({ ask, until }) {
  return until('all jobs to end', async () => {
    const jobs = await ask('/jobs');
    return jobs.every((j) => ['done', 'failed', 'called off'].includes(j.state)) ? jobs : null;
  });
}

/** A profile that people set right after they had seen otherwise. */
async function rehearse(ask, { id }) {
  const { profile } = await ask(`/platforms/${id}/profile`);
  const titleLength = { at: 120, reason: 'longer titles came cut off, as it was seen in the rehearsal' };
  await ask(`/platforms/${id}/profile`, 'PUT', {
    profile: { ...profile, limits: { ...profile.limits, titleLength } },
    note: 'Two long titles of the rehearsal came cut off',
  });
}

/** Decides on the first findings that have something suggested; keeps the first of them as a rule. */
async function decide(ask, { id }, most, asRule = false) {
  const { findings } = await ask(`/moves/${id}/tidy`);
  const mendable = findings.filter((f) => f.suggestions.length > 0).slice(0, most);
  for (const finding of mendable) {
    const [{ mend, params }] = finding.suggestions;
    const match = { kind: finding.kind, groupKey: null, key: finding.key };
    await ask(`/moves/${id}/decisions`, 'POST', { match, mend, params, reason: '' });
  }
  const [first] = mendable;
  if (asRule && first) {
    const [{ mend, params }] = first.suggestions;
    const match = { kind: first.kind, groupKey: first.groupKey, key: null };
    await ask('/mend-rules', 'POST', { name: `As for ${first.title}`.slice(0, 80), match, mend, params, reason: '' });
  }
  const left = findings.find((f) => f.suggestions.length === 0);
  if (left) {
    await ask(`/moves/${id}/decisions`, 'POST', {
      match: { kind: left.kind, groupKey: null, key: left.key },
      mend: 'leave',
      params: {},
      reason: 'The tutor wants it so',
    });
  }
}

/** The fit can't be accepted before the working copy holds what was decided. */
function accept({ ask, until }, { id }) {
  return until(`the fit of move ${id}`, () =>
    ask(`/moves/${id}/accept`, 'POST').catch((error) => {
      if (error.message.includes('working-copy-behind')) return null;
      throw error;
    }),
  );
}

/** A course that its platform gives no export of. */
async function failing({ ask, until }, up, course, to) {
  if (!course) return;
  await post(`${up.quernhold}/practice`, { failure: 'full', times: 1 });
  const move = await ask('/moves', 'POST', { courseId: course.id, destinationId: to.id });
  await until(`move ${move.id} to fail`, async () =>
    (await ask(`/moves/${move.id}`)).steps.some((s) => s.state === 'failed') ? true : null,
  );
}

/** `null` sets the pace that they were started with. */
async function setPace(up, ms) {
  for (const address of up.standins) await post(`${address}/practice/pace`, { ms });
}

async function post(address, body) {
  const answer = await fetch(address, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(`${address} answered ${answer.status}: ${await answer.text()}`);
}

/** Treenail's interface, as somebody who has signed in. */
async function signedIn(address, { email, password }) {
  const signedIn = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password }),
  });
  if (!signedIn.ok) throw new Error(`Signing in was answered with ${signedIn.status}.`);
  const cookie = signedIn.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
  const call = async (path, init = {}) => {
    const answer = await fetch(new URL(path, `${address}/`), { ...init, headers: { cookie, ...init.headers } });
    if (answer.ok) return answer;
    const said = await answer.text();
    throw new Error(`${init.method ?? 'GET'} ${path} was answered with ${answer.status}: ${said}`);
  };
  const ask = async (path, method = 'GET', body = undefined) => {
    const answer = await call(`/api${path}`, {
      method,
      ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    });
    const said = await answer.text();
    return said === '' ? null : JSON.parse(said);
  };
  return {
    ask,
    async bytes(path) {
      return new Uint8Array(await (await call(`/api${path}`)).arrayBuffer());
    },
    /** Gives a file to keep, by the protocol for uploads (tus 1.0). */
    async keep(bytes, said) {
      const metadata = Object.entries(said).map(([k, v]) => `${k} ${Buffer.from(v).toString('base64')}`);
      const headers = { 'tus-resumable': '1.0.0' };
      const begun = await call('/api/uploads', {
        method: 'POST',
        headers: { ...headers, 'upload-length': String(bytes.length), 'upload-metadata': metadata.join(',') },
      });
      await call(begun.headers.get('location') ?? '', {
        method: 'PATCH',
        headers: { ...headers, 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
        body: bytes,
      });
    },
    async until(what, look) {
      const end = Date.now() + PATIENCE_MS;
      while (Date.now() < end) {
        const found = await look();
        if (found) return found;
        await pause(250);
      }
      throw new Error(`Waited in vain for ${what}.`);
    },
  };
}
