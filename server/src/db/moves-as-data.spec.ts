import { QueryTypes, type QueryInterface, type Sequelize } from 'sequelize';
import { MOVE_STEPS, type MoveStep } from '../contract/index.ts';
import { lineOf, stepOf, stepsOf } from '../services/move-steps.ts';
import { movesBy } from '../services/move-rows.ts';
import { testDatabase } from '../testing/database.ts';
import { up } from './migrations/0010-moves-as-data.ts';
import { bindModels, migrations, planOf, type WholeMove } from './index.ts';

/** The steps that there were. */
type StepThen = Exclude<MoveStep, 're-date'>;
const STEPS = MOVE_STEPS.filter((step): step is StepThen => step !== 're-date');

/** What a database of the version before holds of a move that stands at each step. */
const AT: Record<StepThen, string> = {
  fetch: `copy_id = NULL`,
  look: `copy_id = 1`,
  tidy: `copy_id = 1`,
  fit: `copy_id = 1, open_findings = 3, carried_as = 'tarnhall', tidy_version = 2, worked_version = 2`,
  build: `copy_id = 1, accepted_at = '2026-11-02 10:00:00', form_chosen = TRUE, carried_as = 'cc13'`,
  deliver: `copy_id = 1, accepted_at = '2026-11-02 10:00:00', built = '{"fileName":"a.zip","format":"x","size":9,"sha256":"s"}'`,
  check: `copy_id = 1, accepted_at = '2026-11-02 10:00:00', built = '{"fileName":"a.zip","format":"x","size":9,"sha256":"s"}',
    shell = '{"id":"s1","title":"T","url":"http://x"}', delivered_at = '2026-11-03 10:00:00'`,
  'hand-over': `copy_id = 1, accepted_at = '2026-11-02 10:00:00', built = '{"fileName":"a.zip","format":"x","size":9,"sha256":"s"}',
    shell = '{"id":"s2","title":"T","url":"http://x"}', delivered_at = '2026-11-03 10:00:00'`,
};

/** Lines that the spine had of every step that was reached. */
function linesTo(step: StepThen): Record<string, string> {
  const done = STEPS.slice(0, STEPS.indexOf(step));
  const lines = Object.fromEntries(done.map((s) => [s, `line of ${s}`]));
  const accepted = done.includes('fit') ? { fit: 'accepted; line of fit' } : {};
  return { ...lines, ...(step === 'fit' ? { fit: 'line of fit' } : accepted) };
}

/** Findings hold nothing up: a move never stood at that step. */
const STOOD = STEPS.map((step): StepThen => (step === 'tidy' ? 'fit' : step));

describe('Moves of the version before', () => {
  let sequelize: Sequelize;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    const database = await testDatabase();
    ({ sequelize } = database);
    drop = () => database.drop();
    await migrations(sequelize).down({ to: '0010-moves-as-data' });
    const at = `'2026-11-01 10:00:00'`;
    for (const statement of [
      `INSERT INTO users (id, name, email, role, password_hash) VALUES (7, 'Ada', 'ada@marrowick.example', 'administrator', 'x')`,
      `INSERT INTO instances (id, name, platform, base_url, credential, gives, takes)
         VALUES (21, 'Old', 'quernhold', 'http://o', '', TRUE, TRUE), (22, 'New', 'tarnhall', 'http://n', '', TRUE, TRUE)`,
      `INSERT INTO courses (id, instance_id, remote_id, code, section, term, title, owner, size, changed_at)
         VALUES (1, 21, 'c1', 'BTB 210', '01', 'Autumn 2026', 'Repair', '', 1, ${at})`,
      `INSERT INTO copies (id, course_id, file_name, code, section, term, title, instance_name, format, size, sha256, items, kept_at, source_key)
         VALUES (1, 1, 'k.zip', 'BTB 210', '01', 'Autumn 2026', 'Repair', 'Old', 'archive', 1, REPEAT('0', 64), 1, ${at}, 'k')`,
    ])
      await sequelize.query(statement);
    for (const [i, step] of STEPS.entries()) {
      await sequelize.query(
        `INSERT INTO moves (id, course_id, destination_id, created_by, created_at, open_key, results)
           VALUES (${i + 1}, 1, 22, 7, ${at}, 'k${i}', '${JSON.stringify(linesTo(step))}')`,
      );
      await sequelize.query(`UPDATE moves SET ${AT[step]} WHERE id = ${i + 1}`);
      for (const act of ['fit accepted', 'delivery asked for'])
        await sequelize.query(
          `INSERT INTO audit (at, user_id, act, subject, detail) VALUES (${at}, 7, '${act}', 'move ${i + 1}', '{}')`,
        );
    }
    await sequelize.query(
      `INSERT INTO jobs (kind, request_key, move_id, course, input, state, words, done, total, unit, attempts, run_after, created_at, changed_at)
         VALUES ('deliver', 'deliver:move-6', 6, 'BTB', '{"round":0,"shell":{"title":"On its way","section":"02","term":"","code":""}}',
           'waiting', '', 0, 0, '', 0, ${at}, ${at}, ${at})`,
    );
    await migrations(sequelize).up();
  });
  beforeEach(() => bindModels(sequelize));
  afterAll(() => drop());

  const all = () => movesBy({ order: [['id', 'ASC']] });

  it('stand where they stood, each step with its line and who decided it', async () => {
    const moves = await all();
    expect(moves.map(stepOf)).toEqual(STOOD);
    const last = moves.at(-1) as WholeMove;
    expect(stepsOf(last, []).map((s) => [s.step, s.state, s.result, s.by])).toEqual([
      ['fetch', 'done', 'line of fetch', null],
      ['look', 'done', 'line of look', null],
      ['tidy', 'done', 'line of tidy', null],
      ['re-date', 'done', 'dates as they were', null],
      ['fit', 'done', 'accepted; line of fit', 7],
      ['build', 'done', 'line of build', null],
      ['deliver', 'done', 'line of deliver', 7],
      ['check', 'done', 'line of check', null],
      ['hand-over', 'here', '', null],
    ]);
    const atFit = moves[STEPS.indexOf('fit')] as WholeMove;
    expect(lineOf(atFit, 'fit')).toBe('line of fit');
    expect(atFit.steps.find((s) => s.step === 'tidy')?.state).toBe('open');
  });

  it('have a plan with what was decided, and what was built of it', async () => {
    const plans = (await all()).map(planOf);
    const of = (step: StepThen) => plans[STEPS.indexOf(step)];
    expect(plans.map((p) => p.version)).toEqual(STEPS.map(() => 1));
    expect([of('fit')?.carriedAs, of('fit')?.tidyVersion, of('fit')?.acceptedAt]).toEqual(['tarnhall', 2, null]);
    expect([of('build')?.carriedAs, of('build')?.formChosen, of('build')?.acceptedBy]).toEqual(['cc13', true, 7]);
    expect(of('deliver')?.built?.fileName).toBe('a.zip');
  });

  it('have their deliveries: what arrived, and what is on its way', async () => {
    const moves = await all();
    const of = (step: StepThen) =>
      moves[STEPS.indexOf(step)]?.deliveries.map((d) => [d.requestKey, d.shell?.id ?? null, d.deliveredAt !== null]);
    expect(of('fit')).toEqual([]);
    expect(of('deliver')).toEqual([['deliver:move-6', null, false]]);
    expect(of('check')).toEqual([['deliver:move-7', 's1', true]]);
  });

  it('come out the same when the migration is run again after it was killed, and when it is taken back', async () => {
    await migrations(sequelize).down({ to: '0010-moves-as-data' });
    const rows = await sequelize.query(`SELECT results, accepted_at, shell FROM moves ORDER BY id`, {
      type: QueryTypes.SELECT,
    });
    expect(JSON.stringify(rows)).toContain('accepted; line of fit');
    // Killed when all was filled and nothing was dropped.
    const query = (statement: string, options?: object) => {
      if (statement.startsWith('ALTER')) throw new Error('killed');
      return sequelize.query(statement, options);
    };
    await expectAsync(up({ sequelize: { query } } as unknown as QueryInterface)).toBeRejectedWithError('killed');
    await migrations(sequelize).up();
    const moves = await all();
    expect(moves.map(stepOf)).toEqual(STOOD);
    expect(moves.map((m) => [m.plans.length, m.deliveries.length])).toEqual(
      STEPS.map((step) => [1, ['deliver', 'check', 'hand-over'].includes(step) ? 1 : 0]),
    );
  });
});
