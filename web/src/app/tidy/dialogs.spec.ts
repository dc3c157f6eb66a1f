import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { FINDING_SETTINGS, type Rule } from '@treenail/core';
import { of, throwError } from 'rxjs';
import { FindingSettingsDialog } from './finding-settings';
import { RuleDialog, type RuleDialogData } from './rule-dialog';
import { RulesDialog, type RulesDialogData } from './rules-dialog';
import type { RuleSource } from './source';

const textOf = (element: Element | null | undefined) => (element?.textContent ?? '').replace(/\s+/g, ' ').trim();

describe('The dialog of a rule', () => {
  let saved: Rule[];
  let applied: (readonly number[])[];
  let closed: number;

  async function open(rules: Partial<RuleSource> = {}) {
    saved = [];
    applied = [];
    closed = 0;
    const source: RuleSource = {
      save(rule) {
        saved.push(rule);
        return of([{ id: 4, rule }]);
      },
      remove: () => of([]),
      uses: () =>
        of([
          { moveId: 2, course: 'NAV 101-02', title: 'Navigation', findings: 3 },
          { moveId: 5, course: 'EST 120-01', title: 'Ecology', findings: 1 },
        ]),
      apply(_id, moves) {
        applied.push(moves);
        return of(null);
      },
      ...rules,
    };
    const data: RuleDialogData = {
      kind: 'Icons drawn by a font',
      rules: source,
      decision: { match: { kind: 'icon-font', groupKey: null, key: null }, mend: 'replace', params: {}, reason: '' },
    };
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: data },
        { provide: MatDialogRef, useValue: { close: () => closed++ } },
      ],
    });
    const fixture = TestBed.createComponent(RuleDialog);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const press = async (words: string) => {
      // What was ticked just before is shown first.
      await fixture.whenStable();
      const found = [...host.querySelectorAll('button')].find((b) => textOf(b).includes(words));
      if (!found) throw new Error(`no button ${words} in ${textOf(host)}`);
      found.click();
      await fixture.whenStable();
    };
    return { host, press };
  }

  it('keeps the rule under a name, and mends where a person leaves it ticked', async () => {
    const { host, press } = await open();
    expect(textOf(host.querySelector('p'))).toBe(
      'Icons drawn by a font: Put something in its place, wherever there are any.',
    );
    await press('Keep the rule');
    expect(saved).toEqual([
      {
        name: 'Icons drawn by a font',
        match: { kind: 'icon-font', groupKey: null, key: null },
        mend: 'replace',
        params: {},
        reason: '',
      },
    ]);
    expect([...host.querySelectorAll('li')].map(textOf)).toEqual([
      'NAV 101-02 Navigation 3 findings',
      'EST 120-01 Ecology 1 finding',
    ]);
    host.querySelectorAll<HTMLInputElement>('input[type=checkbox]')[1]?.click();
    await press('Mend in 1 course');
    expect(applied).toEqual([[2]]);
    expect(closed).toBe(1);
  });

  it('says that no other course has anything for it, and what went wrong', async () => {
    const { host, press } = await open({ uses: () => of([]) });
    await press('Keep the rule');
    expect(textOf(host)).toContain('No course that waits to be tidied has anything that it fits.');
    TestBed.resetTestingModule();
    const failing = await open({ save: () => throwError(() => new Error('x')) });
    await failing.press('Keep the rule');
    expect(textOf(failing.host.querySelector('[role=alert]'))).toContain('Something went wrong');
  });
});

describe('The dialog of all rules', () => {
  const rule = (name: string, mend: string, groupKey: string | null = null): Rule => ({
    name,
    match: { kind: 'icon-font', groupKey, key: null },
    mend,
    params: {},
    reason: mend === 'leave' ? 'the tutor likes them' : '',
  });

  async function open(kept: RulesDialogData['kept']) {
    const applied: (readonly number[])[] = [];
    const rules: RuleSource = {
      save: () => of([]),
      remove: (id) => (id === 1 ? of(kept.filter((k) => k.id !== id)) : throwError(() => new Error('x'))),
      uses: () => of([{ moveId: 2, course: 'NAV 101-02', title: 'Navigation', findings: 3 }]),
      apply(_id, moves) {
        applied.push(moves);
        return of(null);
      },
    };
    TestBed.configureTestingModule({ providers: [{ provide: MAT_DIALOG_DATA, useValue: { rules, kept } }] });
    const fixture = TestBed.createComponent(RulesDialog);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const press = async (words: string, at = 0) => {
      [...host.querySelectorAll('button')].filter((b) => textOf(b).includes(words))[at]?.click();
      await fixture.whenStable();
    };
    return { host, press, applied };
  }

  it('says what each does, puts one to use, and removes one', async () => {
    const { host, press, applied } = await open([
      { id: 1, rule: rule('Icons', 'remove') },
      { id: 2, rule: rule('Leave anchors', 'leave', 'ico-anchor') },
    ]);
    expect([...host.querySelectorAll('small')].map(textOf)).toEqual([
      'Icons drawn by a font: Take it out, wherever there are any.',
      'Icons drawn by a font: Leave it as it is, because the tutor likes them, where it is ico-anchor.',
    ]);
    await press('Use it');
    expect([...host.querySelectorAll('li')].map(textOf)).toEqual(['NAV 101-02 Navigation 3 findings']);
    await press('Mend in 1 course');
    expect(applied).toEqual([[2]]);
    expect(textOf(host.querySelector('[role=status]'))).toContain('“Icons” is put into the working copies');
    await press('Remove', 1);
    expect(textOf(host.querySelector('[role=alert]'))).toContain('Something went wrong');
    await press('Remove');
    expect([...host.querySelectorAll('section b')].map(textOf)).toEqual(['Leave anchors']);
    expect(textOf(host.querySelector('[role=status]'))).toContain('stays mended');
  });

  it('says how rules come to be where there are none', async () => {
    const { host } = await open([]);
    expect(textOf(host)).toContain('None yet.');
  });
});

describe('The dialog of what is looked for', () => {
  it('shows the rules of the house as lines, and sends what was written', async () => {
    let closed = false;
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        { provide: MatDialogRef, useValue: { close: () => (closed = true) } },
      ],
    });
    const fixture = TestBed.createComponent(FindingSettingsDialog);
    const http = TestBed.inject(HttpTestingController);
    TestBed.tick();
    http
      .expectOne('/api/finding-settings')
      .flush({ ...FINDING_SETTINGS, values: { 'tutor.name': 'the tutor' }, noPersons: ['The College'] });
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const areas = [...host.querySelectorAll('textarea')];
    expect(areas.map((a) => a.value.split('\n')[0])).toEqual([
      `mail address: ${FINDING_SETTINGS.personal[0]?.pattern ?? ''}`,
      FINDING_SETTINGS.placeholders[0] ?? '',
      'tutor.name: the tutor',
      'The College',
    ]);
    const [personal, , values] = areas;
    if (!personal || !values) throw new Error('no fields');
    personal.value = 'number: \\bS\\d+\\b\n\n no colon';
    values.value = 'Tutor.Name: somebody: else';
    const save = async () => {
      [...host.querySelectorAll('button')].find((b) => textOf(b) === 'Look for these')?.click();
      await fixture.whenStable();
    };
    await save();
    // What can't be understood is not dropped: nothing is sent before it is set right.
    http.expectNone({ method: 'PUT', url: '/api/finding-settings' });
    expect(textOf(host.querySelector('[role=alert]'))).toBe(
      '“no colon” has no name: write a name, a colon, and what it stands for.',
    );
    personal.value = 'number: \\bS\\d+\\b\n\n';
    await save();
    const sent = http.expectOne({ method: 'PUT', url: '/api/finding-settings' });
    expect(sent.request.body).toEqual({
      ...FINDING_SETTINGS,
      personal: [{ name: 'number', pattern: '\\bS\\d+\\b' }],
      values: { 'tutor.name': 'somebody: else' },
      noPersons: ['The College'],
    });
    sent.flush(
      {
        type: 'x',
        title: 'x',
        status: 422,
        code: 'pattern-unfit',
        detail: 'It can not be read.',
        action: 'Write it anew.',
      },
      { status: 422, statusText: 'x' },
    );
    await fixture.whenStable();
    expect(textOf(host.querySelector('[role=alert]'))).toBe('It can not be read. Write it anew.');
    expect(closed).toBeFalse();
  });
});
