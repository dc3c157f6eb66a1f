import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { Course, Decision, Finding } from '@treenail/core';
import type { BeforeAfterAnswer, NewDecision } from '@treenail/server/contract';
import { ReplaySubject, Subject, of, throwError, type Observable } from 'rxjs';
import { Screen } from '../testing/screen';
import { FindingDetail } from './finding-detail';
import type { RuleSource, TidySource } from './source';

const FINDING: Finding = {
  key: 'k1',
  kind: 'link-broken',
  weight: 'breaks',
  groupKey: 'gone.html',
  item: 'a',
  node: null,
  title: 'Caulking',
  part: 'page',
  file: 'pages/a.html',
  line: 12,
  evidence: '<a href="gone.html">',
  spot: null,
  suggestions: [
    { mend: 'retarget', params: { to: 'item:b' }, words: 'Lead it to “Paying”' },
    { mend: 'unlink', params: {}, words: 'Take the link off, keep its words' },
  ],
};
const KIND = {
  id: 'link-broken',
  label: 'Links that lead nowhere',
  weight: 'breaks' as const,
  why: 'Students meet an empty page.',
  mends: ['retarget', 'give-file', 'unlink', 'remove'],
};
const page = (id: string, title: string) => ({
  kind: 'page' as const,
  id,
  title,
  definitionPath: `${id}.html`,
  file: `${id}.html`,
  settings: {},
});
const COURSE: Course = {
  title: 'Wooden Boat Repair',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [],
  items: [
    page('a', 'Caulking'),
    page('b', 'Paying'),
    { kind: 'bank', id: 'k', title: 'Seams', definitionPath: null, settings: {}, questions: [] },
  ],
  files: [{ path: 'files/plan.pdf', size: 9, mediaType: 'application/pdf', role: 'content' }],
};
const TRIAL: BeforeAfterAnswer = { before: 'was', after: 'is', line: 12, why: null };

describe('One finding', () => {
  let screen: Screen<FindingDetail>;
  let decided: NewDecision[];
  let kept: NewDecision[];
  let undone: string[];
  let tried: unknown[];
  let trial: Observable<BeforeAfterAnswer>;
  let given: Observable<string>;

  async function open(inputs: Record<string, unknown> = {}, rules: RuleSource | null = {} as RuleSource) {
    decided = [];
    kept = [];
    undone = [];
    tried = [];
    trial = of(TRIAL);
    given = of('given:plan.pdf');
    const source: TidySource = {
      decide: () => of(),
      undo: () => of(),
      choose: () => of(),
      give: () => given,
      beforeAfter: (asked) => {
        tried.push(asked);
        return trial;
      },
      rules,
    };
    TestBed.configureTestingModule({ providers: [provideRouter([])] });
    screen = new Screen(TestBed.createComponent(FindingDetail));
    const it = screen.fixture.componentInstance;
    it.decided.subscribe((d) => decided.push(d));
    it.keepRule.subscribe((d) => kept.push(d));
    it.undone.subscribe((id) => undone.push(id));
    const [decision, failure, alike, ofKind, isOpen, busy] = [null, null, 1, 1, true, false];
    await screen.set({
      ...{ source, finding: FINDING, kind: KIND, course: COURSE, decision, failure, alike, ofKind, busy },
      ...{ open: isOpen, ...inputs },
    });
  }
  const ways = () => screen.texts('mat-radio-button');
  async function choose(says: string) {
    const at = ways().findIndex((words) => words.includes(says));
    const radio = screen.host.querySelectorAll<HTMLInputElement>('mat-radio-button input')[at];
    if (!radio) throw new Error(`no way “${says}”`);
    radio.click();
    await screen.settle();
  }
  async function type(selector: string, words: string) {
    const field = screen.host.querySelector<HTMLInputElement>(selector);
    if (!field) throw new Error(`no ${selector}`);
    field.value = words;
    field.dispatchEvent(new Event('input'));
    await screen.settle();
  }

  it('says what it is, where it stands and why it matters', async () => {
    await open({ itemLink: ['/moves', 3, 'look'] });
    expect(screen.words('h2')).toBe('Caulking');
    expect(screen.words('header code')).toBe('pages/a.html, line 12');
    expect(screen.words('.why')).toBe('Students meet an empty page.');
    expect(screen.host.querySelector('header a')?.getAttribute('href')).toBe('/moves/3/look');
  });

  it('offers what is suggested, then the other mends of its kind, none twice, and to leave it', async () => {
    await open();
    expect(ways().slice(0, 2)).toEqual(['Lead it to “Paying”', 'Take the link off, keep its words']);
    expect(ways().at(-1)).toBe('Leave it as it is, because');
    // To take the link off is suggested, and needs nothing said: it stands there once.
    expect(ways().filter((words) => words.toLowerCase().includes('take the link off')).length).toBe(1);
    expect(ways().length).toBe(6);
  });

  it('shows what the chosen way would change, and decides it', async () => {
    await open();
    await screen.until(() => screen.words('.after') === 'is');
    expect(tried).toEqual([{ key: 'k1', mend: 'retarget', params: { to: 'item:b' } }]);
    expect(screen.words('.trial small')).toBe('before, line 12');
    await screen.press('Mend this one');
    expect(decided).toEqual([
      {
        match: { kind: 'link-broken', groupKey: null, key: 'k1' },
        mend: 'retarget',
        params: { to: 'item:b' },
        reason: '',
      },
    ]);
  });

  it('says that it is being tried, and names an item that is led to by its title', async () => {
    await open();
    const answered = new ReplaySubject<BeforeAfterAnswer>(1);
    trial = answered;
    // It is not settled before its question is answered.
    screen.host.querySelectorAll<HTMLInputElement>('mat-radio-button input')[1]?.click();
    await screen.until(() => screen.words('.trial [role=status]') !== '');
    answered.next({ ...TRIAL, after: '<a href="treenail:item/b">Paying</a>' });
    answered.complete();
    await screen.until(() => screen.words('.trial .after') !== '');
    expect(screen.words('.trial .after')).toBe('<a href="“Paying”">Paying</a>');
  });

  it('can not be decided where the trial says that it can’t be done, and says why', async () => {
    await open();
    trial = of({ ...TRIAL, why: 'the page is gone' });
    await choose('Take the link off');
    await screen.until(() => screen.words('.trial .error') !== '');
    expect(screen.words('.trial .error')).toBe('It can’t be done: the page is gone.');
    expect(screen.button('Mend this one').disabled).toBeTrue();
  });

  it('says so when it could not be tried', async () => {
    await open();
    trial = throwError(() => new Error('no'));
    await choose('Take the link off');
    await screen.until(() => screen.words('[role=alert]') !== '');
    expect(screen.words('[role=alert]')).toContain('Something went wrong');
  });

  it('leaves it only for a reason', async () => {
    await open();
    await choose('Leave it as it is');
    expect(screen.button('Leave this one').disabled).toBeTrue();
    await type('[aria-label=Reason]', '  by design ');
    await screen.press('Leave this one');
    expect(decided[0]).toEqual(jasmine.objectContaining({ mend: 'leave', reason: 'by design', params: {} }));
  });

  it('decides for all alike or all of its kind; each of a kind takes its own suggestion', async () => {
    await open({ alike: 3, ofKind: 8 });
    await screen.press('all 3 alike');
    await screen.press('Mend these 3');
    await screen.press('all 8 of this kind');
    await screen.press('Mend all 8');
    expect(decided.map(({ match, params }) => [match.groupKey, match.key, params])).toEqual([
      ['gone.html', null, { to: 'item:b' }],
      [null, null, {}],
    ]);
  });

  it('says beforehand which of a kind need an answer of their own, and counts only what will be done', async () => {
    const other = (n: number, suggestions: Finding['suggestions']): Finding => ({
      ...FINDING,
      key: `other ${n}`,
      title: `Page ${n}`,
      suggestions,
    });
    const likewise = [FINDING, other(1, FINDING.suggestions), other(2, []), other(3, [])];
    await open({ alike: 1, ofKind: 4, likewise });
    expect(screen.words('[role=note]')).toBe('');
    await screen.press('all 4 of this kind');
    expect(screen.words('[role=note]')).toBe(
      '2 of these 4 need an answer of their own and stay open: “Page 2”, “Page 3”.',
    );
    expect(screen.words('.foot .acts')).toContain('Mend all 2');
  });

  it('keeps what was decided as a rule after it is done too, but no file of a person’s own', async () => {
    const decision: Decision = {
      id: '4',
      match: { kind: FINDING.kind, groupKey: null, key: FINDING.key },
      mend: 'unlink',
      params: {},
      reason: '',
    };
    await open({ decision });
    await screen.press('Keep as a rule');
    expect(kept.map((k) => [k.match.groupKey, k.match.key, k.mend])).toEqual([['gone.html', null, 'unlink']]);
    await screen.set({ decision: { ...decision, params: { given: 'given:x.pdf' } } });
    expect(screen.texts('.done button')).toEqual(['Undo']);
  });

  it('offers no choice of scope where it would change nothing', async () => {
    await open({ alike: 4, ofKind: 4 });
    expect(screen.texts('.scope button')).toEqual(['only this one', 'all 4 alike']);
    await screen.set({ alike: 1, ofKind: 1 });
    expect(screen.host.querySelector('.scope')).toBeNull();
  });

  it('keeps a decision for many as a rule, where there are rules', async () => {
    await open({ alike: 3, ofKind: 3 });
    expect(screen.texts('.acts button').length).toBe(1);
    await screen.press('all 3 alike');
    await screen.press('Keep as a rule');
    expect(kept.map((d) => d.match)).toEqual([{ kind: 'link-broken', groupKey: 'gone.html', key: null }]);
  });

  it('has no rules on the Bench', async () => {
    await open({ alike: 3, ofKind: 3 }, null);
    await screen.press('all 3 alike');
    expect(screen.texts('.acts button')).toEqual(['Mend these 3']);
  });

  it('takes a title or an address as a target, and nothing else', async () => {
    await open({ finding: { ...FINDING, suggestions: [] } });
    await choose(ways()[0] ?? '');
    const target = 'input[placeholder="A page, a file, or an address"]';
    for (const [typed, expected] of [
      ['paying', 'item:b'],
      ['files/plan.pdf', 'file:files/plan.pdf'],
      [' https://tides.example/x ', 'https://tides.example/x'],
    ] as const) {
      await type(target, typed);
      await screen.press('Mend this one');
      expect(Object.values(decided.at(-1)?.params ?? {})).toEqual([expected]);
    }
    await type(target, 'nothing of the kind');
    expect(screen.button('Mend this one').disabled).toBeTrue();
  });

  it('stays with the way that was chosen when its field is left', async () => {
    await open();
    await choose('Leave it as it is');
    await type('[aria-label=Reason]', 'by design');
    screen.host.querySelector('[aria-label=Reason]')?.dispatchEvent(new Event('change', { bubbles: true }));
    await screen.settle();
    expect(screen.host.querySelector<HTMLInputElement>('[aria-label=Reason]')?.value).toBe('by design');
  });

  it('gives a file at once, says when it did not arrive, and makes no rule of it', async () => {
    await open({ alike: 2, ofKind: 2 });
    const coming = new Subject<string>();
    given = coming;
    const at = ways().findIndex((words) => words.includes('file'));
    await choose(ways()[at] ?? '');
    const field = screen.host.querySelector<HTMLInputElement>('input[type=file]');
    if (!field) throw new Error('no field for a file');
    bring(field, new File(['x'], 'plan.pdf'));
    await screen.settle();
    expect(screen.words('[role=status]')).toBe('being sent');
    expect(screen.button('Mend this one').disabled).toBeTrue();
    coming.next('given:plan.pdf');
    await screen.settle();
    await screen.press('all 2 alike');
    expect(screen.texts('.acts button').length).toBe(1);
    await screen.press('Mend these 2');
    expect(Object.values(decided[0]?.params ?? {})).toEqual(['given:plan.pdf']);
    given = throwError(() => new Error('no'));
    bring(field, new File(['x'], 'plan.pdf'));
    await screen.settle();
    expect(screen.words('[role=alert]')).toContain('Something went wrong');
  });

  it('keeps what was begun when the same finding comes again, and begins anew with another', async () => {
    await open();
    await choose('Leave it as it is');
    await type('[aria-label=Reason]', 'by design');
    await screen.set({ finding: { ...FINDING, evidence: 'seen again' } });
    expect(screen.host.querySelector<HTMLInputElement>('[aria-label=Reason]')?.value).toBe('by design');
    await screen.set({ finding: { ...FINDING, key: 'k2' } });
    expect(screen.host.querySelector('[aria-label=Reason]')).toBeNull();
    expect(screen.words('.acts')).toBe('Mend this one');
  });

  it('says what was decided and for how many, and takes it back', async () => {
    const decision = (more: Partial<Decision> = {}): Decision => ({
      id: '7',
      match: { kind: 'link-broken', groupKey: null, key: 'k1' },
      mend: 'retarget',
      params: { to: 'item:b' },
      reason: '',
      ...more,
    });
    const all = { kind: 'link-broken', groupKey: null, key: null };
    await open({ decision: decision() });
    const cases: [Decision, string][] = [
      [decision(), 'Lead it to “Paying”'],
      [decision({ match: { ...all, groupKey: 'gone.html' } }), 'Lead it to “Paying”, with all alike'],
      [decision({ match: all, params: {} }), 'Lead it to “Paying”, with all of its kind'],
      [decision({ reason: 'rule “Paying”' }), 'Lead it to “Paying”: rule “Paying”'],
      [decision({ mend: 'leave', params: {}, reason: 'by design' }), 'Left as it is: by design'],
    ];
    for (const [one, words] of cases) {
      await screen.set({ decision: one });
      expect(screen.words('.done b')).toBe(words);
    }
    await screen.set({ failure: 'the page is gone' });
    expect(screen.words('.done .error')).toBe('It could not be done: the page is gone.');
    await screen.press('Undo');
    expect(undone).toEqual(['7']);
  });

  it('is only to be read once the fit is accepted', async () => {
    await open({ open: false });
    expect(screen.host.querySelector('button')).toBeNull();
    expect(screen.words('.before')).toBe('<a href="gone.html">');
  });
});

/** Gives a field a file, as a person's choice does. */
function bring(field: HTMLInputElement, file: File): void {
  const files = new DataTransfer();
  files.items.add(file);
  field.files = files.files;
  field.dispatchEvent(new Event('change'));
}
