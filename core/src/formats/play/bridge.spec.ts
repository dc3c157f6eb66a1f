import { bridge } from './bridge.ts';

type Api = Record<string, (...args: string[]) => string>;

/** A platform that keeps what it is told, by the names of its edition. */
function platformOf(prefix: '' | 'LMS', given: Record<string, string> = {}) {
  const values = new Map(Object.entries(given));
  const calls: string[] = [];
  const named = (name: string, does: (...args: string[]) => string) => {
    const whole = prefix + name;
    return [whole, (...args: string[]) => (calls.push(whole), does(...args))] as const;
  };
  const yes = () => 'true';
  const api: Api = Object.fromEntries([
    named(prefix ? 'Initialize' : 'Initialize', yes),
    named(prefix ? 'Finish' : 'Terminate', yes),
    named('Commit', yes),
    named('GetValue', (name = '') => values.get(name) ?? ''),
    named('SetValue', (name = '', value = '') => (values.set(name, value), 'true')),
    named('GetLastError', () => values.get('error') ?? '0'),
    named('GetErrorString', (code = '') => `error ${code}`),
    named('GetDiagnostic', () => ''),
  ]);
  return { api, values, calls };
}

/** The interface that an object finds in the page that holds it. */
function held(platform: Record<string, unknown>, name: 'API' | 'API_1484_11'): Api | undefined {
  const top = { ...platform, opener: null } as Record<string, unknown>;
  top['parent'] = top;
  const page = { parent: top, opener: null } as Record<string, unknown>;
  bridge(page as unknown as Window);
  return page[name] as Api | undefined;
}

describe('An object of SCORM 1.2 on a platform of 2004', () => {
  const begun = (given: Record<string, string> = {}) => {
    const { api, values, calls } = platformOf('', given);
    const own = held({ API_1484_11: api }, 'API');
    if (!own) throw new Error('no interface');
    const said = (name: string, ...args: string[]) => own[`LMS${name}`]?.(...args);
    return { said, values, calls };
  };

  it('finds the interface that it looks for, and reports what that edition has in two words', () => {
    const { said, values, calls } = begun({ 'cmi.learner_name': 'Renn, Isla', 'cmi.completion_status': 'unknown' });
    expect([said('Initialize', ''), said('GetValue', 'cmi.core.student_name')]).toEqual(['true', 'Renn, Isla']);
    expect(said('GetValue', 'cmi.core.lesson_status')).toBe('not attempted');
    said('SetValue', 'cmi.core.score.raw', '85');
    said('SetValue', 'cmi.core.lesson_status', 'passed');
    said('SetValue', 'cmi.core.session_time', '0001:02:03.50');
    said('SetValue', 'cmi.core.exit', '');
    said('SetValue', 'cmi.core.lesson_location', 'p7');
    expect(said('GetValue', 'cmi.core.lesson_status')).toBe('passed');
    said('Finish', '');
    expect(Object.fromEntries(values)).toEqual({
      'cmi.learner_name': 'Renn, Isla',
      'cmi.score.scaled': '0.85',
      'cmi.score.raw': '85',
      'cmi.success_status': 'passed',
      'cmi.completion_status': 'completed',
      'cmi.session_time': 'PT1H2M3.5S',
      'cmi.exit': 'normal',
      'cmi.location': 'p7',
    });
    expect(calls.at(-1)).toBe('Terminate');
  });

  it('is told a pass mark, the time and what it kept, in its own measure', () => {
    const { said } = begun({
      'cmi.scaled_passing_score': '0.8',
      'cmi.total_time': 'P1DT2H5S',
      'cmi.suspend_data': 'x=1',
      error: '404',
    });
    const names = ['cmi.student_data.mastery_score', 'cmi.core.total_time', 'cmi.suspend_data'];
    expect(names.map((name) => said('GetValue', name))).toEqual(['80', '0026:00:05', 'x=1']);
    expect(said('GetLastError')).toBe('403');
  });

  it('says its interactions and its objectives in the words of the other edition', () => {
    const { said, values } = begun();
    said('SetValue', 'cmi.interactions.0.student_response', 'a,c');
    said('SetValue', 'cmi.interactions.0.result', 'wrong');
    said('SetValue', 'cmi.interactions.0.latency', '00:00:07');
    said('SetValue', 'cmi.objectives.1.status', 'failed');
    expect(Object.fromEntries(values)).toEqual({
      'cmi.interactions.0.learner_response': 'a[,]c',
      'cmi.interactions.0.result': 'incorrect',
      'cmi.interactions.0.latency': 'PT0H0M7S',
      'cmi.objectives.1.success_status': 'failed',
      'cmi.objectives.1.completion_status': 'completed',
    });
  });

  it('finds its own where the platform has both', () => {
    expect(held({ API_1484_11: platformOf('').api, API: platformOf('LMS').api }, 'API')).toBeUndefined();
    expect(held({}, 'API')).toBeUndefined();
  });
});

describe('An object of SCORM 2004 on a platform of 1.2', () => {
  it('reports in one word what it says in two, and its score in the measure of that edition', () => {
    const { api, values } = platformOf('LMS', { 'cmi.student_data.mastery_score': '60', 'cmi.core.lesson_status': '' });
    const own = held({ API: api }, 'API_1484_11');
    if (!own) throw new Error('no interface');
    const said = (name: string, ...args: string[]) => own[name]?.(...args);
    expect([said('Initialize', ''), said('GetValue', 'cmi.scaled_passing_score')]).toEqual(['true', '0.6']);
    expect(said('GetValue', 'cmi.completion_status')).toBe('unknown');
    said('SetValue', 'cmi.completion_status', 'incomplete');
    expect(values.get('cmi.core.lesson_status')).toBe('incomplete');
    said('SetValue', 'cmi.score.scaled', '0.756');
    said('SetValue', 'cmi.score.raw', '34');
    said('SetValue', 'cmi.success_status', 'passed');
    said('SetValue', 'cmi.completion_status', 'completed');
    said('SetValue', 'cmi.session_time', 'PT1M5.25S');
    // There is no place for it there: it is known as long as the page is open.
    said('SetValue', 'cmi.progress_measure', '0.5');
    expect([said('GetValue', 'cmi.progress_measure'), said('GetValue', 'cmi.score.scaled')]).toEqual(['0.5', '0.756']);
    expect([said('GetValue', 'cmi.success_status'), said('GetValue', 'cmi.completion_status')]).toEqual([
      'passed',
      'completed',
    ]);
    expect(values.get('cmi.core.lesson_status')).toBe('passed');
    expect(values.get('cmi.core.score.raw')).toBe('75.6');
    expect(values.get('cmi.core.session_time')).toBe('0000:01:05.25');
  });
});
