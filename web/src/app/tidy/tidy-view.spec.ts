import { momentOf } from '@treenail/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { Location } from '@angular/common';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { MatMenuHarness } from '@angular/material/menu/testing';
import { MatSnackBarHarness } from '@angular/material/snack-bar/testing';
import { provideRouter } from '@angular/router';
import type { Course, Finding } from '@treenail/core';
import type { NewDecision, TidyAnswer } from '@treenail/server/contract';
import { of } from 'rxjs';
import type { TidySource } from './source';
import { TidyView } from './tidy-view';
import { WhatGoes } from './what-goes';

const finding = (key: string, more: Partial<Finding> = {}): Finding => ({
  key,
  kind: 'link-broken',
  weight: 'breaks',
  groupKey: 'gone.html',
  item: 'a',
  node: null,
  title: `Page ${key}`,
  part: 'page',
  file: 'a.html',
  line: 3,
  evidence: `link to gone.html (${key})`,
  spot: null,
  suggestions: [{ mend: 'unlink', params: {}, words: 'Take the link off' }],
  ...more,
});
const COURSE: Course = {
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [{ id: 'f', title: 'Week 1', children: [{ id: 'na', title: 'Caulking', item: 'a', children: [] }] }],
  items: [
    { kind: 'page', id: 'a', title: 'Caulking', definitionPath: 'a.html', file: 'a.html', settings: {} },
    {
      kind: 'bank',
      id: 'k',
      title: 'Bank',
      definitionPath: null,
      settings: { due: momentOf('2026-01-01T00:00:00Z') },
      questions: [],
    },
  ],
  files: [],
};
const kind = (id: string, weight: Finding['weight'], mends: string[]) => ({
  id,
  label: `Label of ${id}`,
  weight,
  why: 'It matters.',
  mends,
});
const TIDY: TidyAnswer = {
  findings: [
    finding('1'),
    finding('2'),
    finding('3', { groupKey: 'other.html' }),
    finding('4', {
      kind: 'placeholder',
      weight: 'weakens',
      groupKey: '{~x~}',
      suggestions: [],
      evidence: '{~x~}',
    }),
  ],
  kinds: [
    kind('link-broken', 'breaks', ['retarget', 'give-file', 'unlink', 'remove']),
    kind('placeholder', 'weakens', ['replace', 'remove']),
  ],
  decisions: [],
  rules: [],
  failed: [],
  leftOut: [],
  hiddenUntil: null,
  further: null,
  comesAgain: false,
  pulledIn: [],
  dangling: [],
  current: true,
  open: true,
};

describe('The tidy view', () => {
  let fixture: ComponentFixture<TidyView>;
  let decided: NewDecision[];
  let undone: string[];
  const host = () => fixture.nativeElement as HTMLElement;
  const text = (selector: string) =>
    [...host().querySelectorAll(selector)].map((e) => e.textContent.replace(/\s+/g, ' ').trim());
  const button = (words: string) => {
    const found = [...host().querySelectorAll('button')].find((b) => b.textContent.includes(words));
    if (!found) throw new Error(`no button ${words}`);
    return found;
  };
  const settle = async () => {
    await fixture.whenStable();
    fixture.detectChanges();
  };
  const show = async (tidy: TidyAnswer) => {
    fixture.componentRef.setInput('tidy', tidy);
    await settle();
  };

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideRouter([])] });
    decided = [];
    undone = [];
    const source: TidySource = {
      decide(decision) {
        decided.push(decision);
        return of({ ...TIDY, decisions: [{ ...decision, id: '9' }] });
      },
      undo(id) {
        undone.push(id);
        return of(TIDY);
      },
      choose: () => of(TIDY),
      give: (file) => of(`given:${file.name}`),
      beforeAfter: () => of({ before: 'was', after: 'is', line: 3, why: null }),
      rules: null,
    };
    fixture = TestBed.createComponent(TidyView);
    fixture.componentRef.setInput('course', COURSE);
    fixture.componentRef.setInput('source', source);
    fixture.componentInstance.changed.subscribe((tidy) => fixture.componentRef.setInput('tidy', tidy));
    await show(TIDY);
  });

  it('groups kinds under what they mean, with how many are open', () => {
    expect(text('.kinds h3')).toEqual(['will not work', 'worth a look']);
    expect(text('.kind')).toEqual(['All4 of 4', 'Label of link-broken3', 'Label of placeholder1']);
  });

  it('decides for one, for those alike, and for all of a kind', async () => {
    button('Mend this one').click();
    await settle();
    expect(decided[0]).toEqual({
      match: { kind: 'link-broken', groupKey: null, key: '1' },
      mend: 'unlink',
      params: {},
      reason: '',
    });
    button('Undo').click();
    await settle();
    expect(undone).toEqual(['9']);
    button('all 2 alike').click();
    await settle();
    button('Mend these 2').click();
    await settle();
    expect(decided[1]?.match).toEqual({ kind: 'link-broken', groupKey: 'gone.html', key: null });
    await show(TIDY);
    button('all 3 of this kind').click();
    await settle();
    button('Mend all 3').click();
    expect(decided[2]?.match).toEqual({ kind: 'link-broken', groupKey: null, key: null });
  });

  it('offers the way back of what decided many at once', async () => {
    const loader = TestbedHarnessEnvironment.documentRootLoader(fixture);
    button('Mend this one').click();
    await settle();
    expect((await loader.getAllHarnesses(MatSnackBarHarness)).length).toBe(0);
    button('Undo').click();
    await settle();
    button('all 2 alike').click();
    await settle();
    button('Mend these 2').click();
    await settle();
    const bar = await loader.getHarness(MatSnackBarHarness);
    expect(await bar.getMessage()).toBe('2 findings decided');
    await bar.dismissWithAction();
    expect(undone).toEqual(['9', '9']);
  });

  it('has the manners of a list: a slash for the filter, its state in the address, a sheet of what is shown', async () => {
    document.dispatchEvent(new KeyboardEvent('keydown', { key: '/' }));
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Search the findings');
    (document.activeElement as HTMLElement | null)?.blur();
    button('Label of placeholder').click();
    await settle();
    expect(TestBed.inject(Location).path()).toContain('kind=placeholder');
    const made = spyOn(URL, 'createObjectURL').and.returnValue('blob:none');
    const given = spyOn(HTMLAnchorElement.prototype, 'click');
    const menu = await TestbedHarnessEnvironment.loader(fixture).getHarness(
      MatMenuHarness.with({ triggerText: 'Export' }),
    );
    await menu.open();
    await menu.clickItem({ text: /1 finding shown, as CSV/ });
    while (given.calls.count() === 0) await new Promise((next) => requestAnimationFrame(next));
    const sheet = await (made.calls.mostRecent().args[0] as Blob).text();
    const lines = sheet
      .replace(/^\uFEFF/, '')
      .trim()
      .split('\n');
    expect(lines.length).toBe(2);
    expect(lines[0]).toBe('Weight,Kind,Where,What was found,State,Decided,Reason');
    expect(lines[1]).toContain('Label of placeholder');
  });

  it('shows what was decided beside what was not, and says what could not be done', async () => {
    const match = { kind: 'link-broken', groupKey: 'gone.html', key: null };
    const decisions = [{ id: '5', match, mend: 'unlink', params: {}, reason: '' }];
    await show({
      ...TIDY,
      decisions,
      failed: [{ key: '2', decision: '5', why: 'it is not in a text' }],
      current: false,
    });
    expect(text('.kind')[1]).toBe('Label of link-broken2 of 3');
    expect(text('.tag')).toEqual(['the working copy follows', '1 mend could not be done']);
    expect(text('.error').join()).toContain('it is not in a text');
  });

  it('wants words for what needs them', async () => {
    button('Label of placeholder').click();
    await settle();
    expect(button('Mend this one').disabled).toBeTrue();
    const field = host().querySelector<HTMLInputElement>('.more input');
    if (!field) throw new Error('no field');
    field.value = 'the tutor';
    field.dispatchEvent(new Event('input'));
    await settle();
    button('Mend this one').click();
    expect(decided[0]).toEqual({
      match: { kind: 'placeholder', groupKey: null, key: '4' },
      mend: 'replace',
      params: { text: 'the tutor' },
      reason: '',
    });
  });

  it('takes a file of the person’s own, and keeps no rule of it', async () => {
    const way = [...host().querySelectorAll('mat-radio-button')].find((l) =>
      l.textContent.includes('Put a file of yours'),
    );
    way?.querySelector<HTMLInputElement>('input[type=radio]')?.click();
    await settle();
    expect(button('Mend this one').disabled).toBeTrue();
    const field = host().querySelector<HTMLInputElement>('input[type=file]');
    if (!field) throw new Error('no field');
    const picked = new DataTransfer();
    picked.items.add(new File(['x'], 'map.png'));
    field.files = picked.files;
    field.dispatchEvent(new Event('change'));
    await settle();
    button('all 2 alike').click();
    await settle();
    expect([...host().querySelectorAll('button')].some((b) => b.textContent.includes('Keep as a rule'))).toBeFalse();
    button('Mend these 2').click();
    expect(decided[0]).toEqual({
      match: { kind: 'link-broken', groupKey: 'gone.html', key: null },
      mend: 'give-file',
      params: { given: 'given:map.png' },
      reason: '',
    });
  });

  it('goes from finding to finding by keys', async () => {
    const press = async (key: string) => {
      document.dispatchEvent(new KeyboardEvent('keydown', { key }));
      await settle();
      return text('tn-finding-detail h2')[0];
    };
    expect(await press('j')).toBe('Page 2');
    expect(await press('k')).toBe('Page 1');
    expect(await press('n')).toBe('Page 2');
  });
});

describe('What goes', () => {
  it('is ticked by item, folder, kind and date, and said before it is done', async () => {
    const fixture = TestBed.createComponent(WhatGoes);
    for (const [name, value] of Object.entries({
      course: COURSE,
      leftOut: [],
      pulledIn: [],
      dangling: [],
      open: true,
    })) {
      fixture.componentRef.setInput(name, value);
    }
    const said: (readonly string[])[] = [];
    fixture.componentInstance.chosen.subscribe(({ leftOut }) => said.push(leftOut));
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const date = host.querySelector<HTMLInputElement>('input[aria-label^=untick]');
    if (!date) throw new Error('no date');
    date.value = '1 Jun 2026';
    for (const event of ['input', 'change']) date.dispatchEvent(new Event(event));
    await fixture.whenStable();
    expect(host.querySelector('b')?.textContent).toBe('1 of 2 items go');
    // What is ticked holds by itself.
    while (said.length === 0) await new Promise((next) => requestAnimationFrame(next));
    expect(said).toEqual([['k']]);
  });
});
