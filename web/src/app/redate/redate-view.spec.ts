import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import type { HarnessLoader } from '@angular/cdk/testing';
import { Component, signal } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { MatButtonHarness } from '@angular/material/button/testing';
import { MatButtonToggleHarness } from '@angular/material/button-toggle/testing';
import { MatDialogHarness } from '@angular/material/dialog/testing';
import { MatInputHarness } from '@angular/material/input/testing';
import { MatSelectHarness } from '@angular/material/select/testing';
import { provideHttpClient } from '@angular/common/http';
import { provideRouter } from '@angular/router';
import { NO_REDATING, momentOf, type KnownDate, type RedatePlan, type Term } from '@treenail/core';
import { Screen } from '../testing/screen';
import { ListHarness } from '../parts/list/list.harness';
import { DateStripsHarness } from './strips.harness';
import { RedateView, type RedateData } from './redate-view';

const AUTUMN: Term = { name: 'Autumn 2026', from: '2026-09-14', to: '2026-12-18', breaks: [] };
const SPRING: Term = { name: 'Spring 2027', from: '2027-01-11', to: '2027-04-09', breaks: [] };
const SUMMER: Term = { name: 'Summer 2027', from: '2027-04-26', to: '2027-07-09', breaks: [] };
const date = (item: string, on: string, more: Partial<KnownDate> = {}): KnownDate => ({
  key: `item:${item} due`,
  name: 'due',
  kind: 'assignment',
  title: item,
  item,
  node: null,
  folders: ['f1'],
  at: momentOf(on),
  needs: [],
  ...more,
});
const WRITTEN: RedateData['written'] = [
  {
    kind: 'page',
    folders: [],
    finding: {
      key: 'date-in-words|p|page|Friday 18 September',
      kind: 'date-in-words',
      weight: 'weakens',
      groupKey: 'Friday 18 September',
      item: 'p',
      node: null,
      title: 'Start here',
      part: 'page',
      file: 'start.html',
      line: 4,
      evidence: 'Hand it in by Friday 18 September.',
      spot: { at: { start: 10, end: 29 }, open: null, close: null, inStyle: false },
      suggestions: [{ mend: 'new-date', params: { language: 'en' }, words: 'Write the day that it is then' }],
    },
  },
];
const DATA: RedateData = {
  dates: [
    date('Survey', '2026-09-25T16:00:00Z'),
    date('Splice', '2026-11-27'),
    date('Quiz', '2026-10-05', { key: 'item:Quiz opens', name: 'opens', kind: 'quiz' }),
  ],
  written: WRITTEN,
  folders: [{ id: 'f1', title: 'Week 1' }],
  terms: [AUTUMN, SPRING, SUMMER],
  closed: [{ on: '2027-03-26', name: 'Good Friday' }],
  zone: 'Europe/London',
  today: '2026-12-01',
  from: 'Autumn 2026',
  to: 'Spring 2027',
  notes: [],
};

@Component({
  imports: [RedateView],
  template: `<tn-redate-view called="BTB 210" [data]="data()" [open]="open()" [(draft)]="draft" />`,
  styles: `
    tn-redate-view {
      width: 1000px;
      height: 700px;
    }
  `,
})
class Host {
  readonly data = signal(DATA);
  readonly open = signal(true);
  readonly draft = signal<RedatePlan>({ ...NO_REDATING, rule: { is: 'term', from: AUTUMN, to: SPRING } });
}

describe('Dates that are re-dated', () => {
  let fixture: ComponentFixture<Host>;
  let screen: Screen<Host>;
  let loader: HarnessLoader;
  let root: HarnessLoader;
  let list: ListHarness;
  const draft = () => fixture.componentInstance.draft();
  const answer = () =>
    (fixture.nativeElement as HTMLElement).querySelector('.answer p')?.textContent.replace(/\s+/g, ' ');
  const press = async (text: string | RegExp) => {
    await (await root.getHarness(MatButtonHarness.with({ text }))).click();
    await screen.drawn();
  };

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideRouter([])] });
    fixture = TestBed.createComponent(Host);
    screen = new Screen(fixture);
    await screen.settle();
    await screen.unroll();
    loader = TestbedHarnessEnvironment.loader(fixture);
    root = TestbedHarnessEnvironment.documentRootLoader(fixture);
    list = await loader.getHarness(ListHarness);
  });

  it('say first how many go where, and what has to be looked at', async () => {
    expect(answer()).toContain('3 dates go into Spring 2027: 3 on the same weekday; 2 dates to look at');
    expect(await list.column('As it will be')).toEqual([
      'Fri 22 Jan 2027 17:00',
      'Fri 26 Mar 2027',
      'Mon 1 Feb 2027',
      '“Friday 15 January”',
    ]);
    expect((await list.column('To look at'))[1]).toBe('Good Friday: closed');
  });

  it('follow another rule, and another term', async () => {
    await (
      await loader.getHarness(MatSelectHarness.with({ selector: '[aria-label="Into the term"]' }))
    ).clickOptions({
      text: 'Summer 2027',
    });
    expect(draft().rule).toEqual({ is: 'term', from: AUTUMN, to: SUMMER });
    await (await loader.getHarness(MatButtonToggleHarness.with({ text: 'As many days on' }))).check();
    expect(draft().rule).toEqual({ is: 'days', from: '2026-09-14', to: '2027-04-26' });
    await (await loader.getHarness(MatButtonToggleHarness.with({ text: 'Taken away' }))).check();
    await screen.drawn();
    expect(answer()).toContain('3 dates are taken away');
    expect((await list.column('As it will be')).slice(0, 3)).toEqual(['taken away', 'taken away', 'taken away']);
  });

  it('are set by hand in the list, and go back to the rule', async () => {
    await list.filter('survey');
    await screen.drawn();
    await press('Set');
    const dialog = await root.getHarness(MatDialogHarness);
    const input = await dialog.getHarness(MatInputHarness);
    expect(await input.getValue()).toBe('2027-01-22 17:00');
    await input.setValue('3/4/2027');
    expect(await dialog.getContentText()).toContain('with the day or the month first');
    expect(await (await dialog.getHarness(MatButtonHarness.with({ text: 'Set it' }))).isDisabled()).toBeTrue();
    await input.setValue('29 Jan 2027 09:30');
    await press('Set it');
    await screen.until(() => Object.keys(draft().byHand).length > 0);
    await screen.drawn();
    expect(draft().byHand).toEqual({ 'item:Survey due': momentOf('2027-01-29T09:30:00Z') });
    expect(await list.column('As it will be')).toEqual(['Fri 29 Jan 2027 09:30']);
    await press('By the rule');
    expect(draft().byHand).toEqual({});
  });

  it('are moved on the strip by the keyboard', async () => {
    const strips = await loader.getHarness(DateStripsHarness);
    expect((await strips.told())[0]).toBe('Survey, due: Fri 22 Jan 2027');
    await strips.press(0, 'right', true);
    expect(draft().byHand).toEqual({ 'item:Survey due': momentOf('2027-01-29T17:00:00Z') });
  });

  it('are put into texts one by one, all, or left', async () => {
    await (await loader.getHarness(MatButtonToggleHarness.with({ text: /in texts/ }))).check();
    await screen.drawn();
    await press('Put in');
    const [finding] = WRITTEN;
    const key = finding?.finding.key ?? '';
    expect(draft().texts).toEqual({ [key]: { is: 'taken' } });
    await press('Leave');
    expect(draft().texts).toEqual({ [key]: { is: 'left' } });
    await press('Put new dates into the texts');
    expect([draft().allTexts, draft().texts]).toEqual([true, {}]);
    await press('Read');
    const dialog = await root.getHarness(MatDialogHarness);
    expect(await dialog.getContentText()).toContain('Hand it in by Friday 18 September.');
    await (await dialog.getHarness(MatInputHarness)).setValue('in the first week');
    await press('Write this');
    await screen.until(() => draft().texts[key]?.is === 'words');
    expect(draft().texts).toEqual({ [key]: { is: 'words', words: 'in the first week' } });
  });

  it('have rules for some of them, each at most one', async () => {
    await press(/Rules for some/);
    const dialog = await root.getHarness(MatDialogHarness);
    const more = await dialog.getHarness(MatSelectHarness);
    await more.clickOptions({ text: 'Week 1' });
    await more.open();
    expect(await Promise.all((await more.getOptions()).map((o) => o.getText()))).not.toContain('Week 1');
    await more.close();
    await press('Use these rules');
    await screen.until(() => draft().others.length > 0);
    await screen.settle();
    expect(draft().others).toEqual([{ scope: { is: 'folder', folder: 'f1' }, rule: { is: 'keep' } }]);
    expect(answer()).toContain('3 as they were');
  });

  it('are brought back as a table, or refused with every line that is wrong', async () => {
    const bring = async (csv: string) => {
      const field = (fixture.nativeElement as HTMLElement).querySelector<HTMLInputElement>('input[type=file]');
      const files = new DataTransfer();
      files.items.add(new File([csv], 'mine.csv'));
      if (!field) throw new Error('nothing takes a file');
      field.files = files.files;
      field.dispatchEvent(new Event('change'));
      await fixture.whenStable();
    };
    await bring('Key,As it will be\nitem:none due,2027-01-01\nitem:Survey due,2027-02-31');
    const alert = () => (fixture.nativeElement as HTMLElement).querySelector('[role=alert]')?.textContent ?? '';
    await screen.until(() => alert() !== '');
    expect(alert()).toContain('Nothing was taken from mine.csv');
    expect(alert()).toContain('Line 2: There is no date “item:none due”');
    expect(alert()).toContain('Line 3: “Survey”: there is no day 2027-02-31');
    expect(draft().byHand).toEqual({});
    await bring('Key,As it will be\nitem:Survey due,2027-02-03 12:00');
    await screen.until(() => Object.keys(draft().byHand).length > 0);
    await screen.settle();
    expect(draft().byHand).toEqual({ 'item:Survey due': momentOf('2027-02-03T12:00:00Z') });
    expect(alert()).toBe('');
  });

  it('change nothing where nothing is open', async () => {
    fixture.componentInstance.open.set(false);
    await fixture.whenStable();
    expect((await loader.getAllHarnesses(MatButtonHarness.with({ text: 'Set' }))).length).toBe(0);
    expect(await (await loader.getHarness(MatButtonHarness.with({ text: /Rules for some/ }))).isDisabled()).toBeTrue();
  });
});
