import { TestBed } from '@angular/core/testing';
import type { Profile } from '@treenail/core';
import type { PlatformSummary, ProfileAnswer, ProfileChange } from '@treenail/server/contract';
import { Subject, of, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { Screen } from '../testing/screen';
import { ProfilePanel } from './profile-panel';

const PROFILE: Profile = {
  id: 'tarnhall',
  label: 'Tarnhall',
  version: 1,
  kinds: {
    checklist: { carry: 'never', reason: 'none there' },
    announcement: { carry: 'as', ways: [{ as: 'page', reason: 'it has no news', drops: [] }] },
  },
  settings: { quiz: { password: 'no passwords there' } },
  questions: {},
  questionParts: {},
  limits: { titleLength: { at: 120, reason: 'longer ones are cut' } },
};
const trial = { id: 7, name: 'Trial' } as PlatformSummary;

describe('What a destination can hold', () => {
  let screen: Screen<ProfilePanel>;
  let sent: ProfileChange[];
  let told: number;
  let profile: Profile;
  let answer: (change: ProfileChange) => Observable<ProfileAnswer>;
  const changes = () => screen.texts('.changes li');
  const value = (label: string) => screen.host.querySelector<HTMLInputElement>(`[aria-label="${label}"]`)?.value;
  const limit = () => {
    const found = [...screen.host.querySelectorAll('.limits mat-form-field')].find((l) =>
      l.textContent?.includes('title'),
    );
    const field = found?.querySelector('input');
    if (!field) throw new Error('no limit of titles');
    return field;
  };
  const write = async (field: HTMLInputElement, words: string) => {
    field.value = words;
    field.dispatchEvent(new Event('change'));
    await screen.settle();
  };
  const keep = async (why: string) => {
    const field = screen.host.querySelector<HTMLInputElement>('.changes input');
    if (field) field.value = why;
    screen.host.querySelector('.changes form')?.dispatchEvent(new Event('submit'));
    await screen.settle();
  };

  beforeEach(async () => {
    sent = [];
    told = 0;
    profile = PROFILE;
    answer = ({ profile, note }) =>
      of({
        profile: { ...profile, version: 2 },
        history: [{ version: 2, changedAt: '2026-11-20T10:00:00Z', by: 'Isla Renn', note, changes: ['quiz'] }],
      });
    TestBed.configureTestingModule({
      providers: [
        {
          provide: Api,
          useValue: {
            profile: () => of<ProfileAnswer>({ profile, history: [] }),
            changeProfile: (_id: number, change: ProfileChange) => {
              sent.push(change);
              return answer(change);
            },
          },
        },
      ],
    });
    screen = new Screen(TestBed.createComponent(ProfilePanel));
    screen.fixture.componentInstance.changed.subscribe(() => told++);
    await screen.set({ platform: trial });
  });

  it('is read kind by kind: how each arrives, why, and what it loses', async () => {
    expect(await screen.chosen('How a checklist arrives')).toBe('never');
    expect(value('Reason for the checklist')).toBe('none there');
    expect(await screen.chosen('How an announcement arrives')).toBe('as a page');
    expect(await screen.chosen('How a page arrives')).toBe('whole');
    expect(value('Reason for the page')).toBeUndefined();
    const quiz = screen.texts('tbody tr').find((row) => row.startsWith('quiz'));
    expect(quiz).toContain('loses password');
    expect([limit().value, changes()]).toEqual(['120', []]);
  });

  it('says what is kept of settings where all others are lost', async () => {
    profile = { ...PROFILE, keeps: { quiz: ['points', 'due'] } };
    await screen.set({ platform: { ...trial, id: 8 } });
    const rows = screen.texts('tbody tr');
    expect(rows.find((row) => row.startsWith('quiz'))).toContain('loses all settings but points, due');
    expect(rows.find((row) => row.startsWith('page'))).toContain('loses all settings');
    // What does not arrive has no settings to lose.
    expect(rows.find((row) => row.startsWith('checklist'))).not.toContain('loses');
  });

  it('says each change in words before it is kept, and takes all of them back', async () => {
    await screen.choose('How an announcement arrives', 'whole');
    await screen.choose('How an event arrives', 'never');
    await screen.fill('[aria-label="Reason for the checklist"]', 'seen to be missing');
    await write(limit(), '60');
    expect(value('Reason for the event')).toBe('as it was seen at Trial');
    expect(changes().length).withContext(changes().join('; ')).toBe(4);
    await screen.press('Undo');
    expect(changes()).toEqual([]);
    expect(await screen.chosen('How an announcement arrives')).toBe('as a page');
    expect(value('Reason for the checklist')).toBe('none there');
    expect(limit().value).toBe('120');
  });

  it('keeps no reason that says nothing and no limit that is none, nor leaves them standing', async () => {
    await screen.fill('[aria-label="Reason for the checklist"]', '  ');
    expect([value('Reason for the checklist'), changes()]).toEqual(['none there', []]);
    await write(limit(), '-4');
    expect([limit().value, changes().length]).toEqual(['', 1]);
    await write(limit(), '2.5');
    expect(limit().value).toBe('');
  });

  it('is kept once, with why, and told', async () => {
    const coming = new Subject<ProfileAnswer>();
    await screen.choose('How an event arrives', 'never');
    await keep('  ');
    expect(screen.words('[role=alert]')).toContain('Write why');
    answer = () => coming;
    await keep(' seen in a rehearsal ');
    await keep('seen twice');
    expect(sent.map((s) => [s.note, s.profile.kinds.event])).toEqual([
      ['seen in a rehearsal', { carry: 'never', reason: 'as it was seen at Trial' }],
    ]);
    expect(screen.button('Keep version 2').disabled).toBeTrue();
    coming.next({
      profile: { ...PROFILE, version: 2, kinds: { ...PROFILE.kinds, event: { carry: 'never', reason: 'seen' } } },
      history: [{ version: 2, changedAt: '2026-11-20T10:00:00Z', by: 'Isla Renn', note: 'seen', changes: ['event'] }],
    });
    await screen.settle();
    expect([changes(), told, screen.words('[role=alert]')]).toEqual([[], 1, '']);
    expect(screen.words('header')).toContain('version 2');
    expect(screen.host.textContent).toContain('Isla Renn: seen (event)');
  });

  it('stays as it was drawn up where it is refused, with why', async () => {
    await screen.choose('How an event arrives', 'never');
    answer = () => throwError(() => new Error('broken'));
    await keep('seen');
    expect(screen.words('[role=alert]')).not.toBe('');
    expect([changes().length, told, screen.button('Keep version 2').disabled]).toEqual([1, 0, false]);
  });
});
