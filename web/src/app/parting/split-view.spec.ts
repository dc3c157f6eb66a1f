import { Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Refusal, problem, proposeSplits, splitOf, type Course, type SplitPlan } from '@treenail/core';
import { defer, of, throwError } from 'rxjs';
import type { Cuts, PartAnswer } from '../bench/messages';
import { Screen } from '../testing/screen';
import { SplitView, type SplitSource } from './split-view';

const page = (id: string) => ({
  kind: 'page' as const,
  id,
  title: id,
  definitionPath: null,
  file: `${id}.html`,
  settings: {},
});
const at = (id: string) => ({ id: `n-${id}`, title: id, item: id, children: [] });
const COURSE: Course = {
  title: 'Tides',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [
    at('Start'),
    { id: 'f1', title: 'Autumn half', children: [at('Moon'), at('Neap')] },
    { id: 'f2', title: 'Spring half', children: [at('Sun')] },
  ],
  items: ['Start', 'Moon', 'Neap', 'Sun', 'Loose'].map(page),
  files: [],
};
const CUTS: Cuts = { course: COURSE, proposals: proposeSplits(COURSE, { terms: [], zone: 'UTC' }) };

@Component({
  imports: [SplitView],
  template: `@if (here()) {
    <tn-split-view
      [cuts]="cuts()"
      [begun]="begun()"
      [source]="source"
      (corrected)="begun.set($event)"
      (made)="made.push($event)"
    />
  }`,
  styles: `
    tn-split-view {
      width: 1000px;
      height: 600px;
    }
  `,
})
class Host {
  readonly here = signal(true);
  readonly begun = signal<SplitPlan | null>(null);
  readonly cuts = signal(CUTS);
  readonly made: SplitPlan[] = [];
  /** What leads over the cut, by part. */
  over: readonly PartAnswer['dangling'][] = [];
  readonly source: SplitSource = {
    parts: (plan) =>
      defer(() => {
        try {
          return of(
            splitOf(COURSE, [], plan).map(({ items, title, shared, dangling, weights, points }, i): PartAnswer => ({
              title,
              items: [...items],
              shared,
              dangling: this.over[i] ?? dangling,
              weights,
              points,
            })),
          );
        } catch (error) {
          return throwError(() => (error instanceof Refusal ? error : new Refusal(problem('no-cut', String(error)))));
        }
      }),
  };
}

describe('A course that is to be split', () => {
  let screen: Screen<Host>;
  const answered = (words: string) => screen.until(() => screen.words('.answer').includes(words));

  beforeEach(async () => {
    screen = new Screen(TestBed.createComponent(Host));
    await screen.settle();
    await screen.unroll();
    await answered('items');
  });

  it('begins with the cut that is proposed, and says what would be in each part', () => {
    expect(screen.words('.answer')).toBe(
      '2 courses of one: 4 and 3 items, 2 of them in more than one; 0 links over the cut',
    );
    expect(screen.texts('.row .title').slice(0, 3)).toEqual(['Start page', 'Autumn half folder', 'Moon page']);
    expect(screen.texts('.parts section')[0]).toContain('In another part too: Start goes into all Loose goes into all');
  });

  it('is corrected by folder and item, and called otherwise', async () => {
    await screen.choose('Where Neap goes', /^2:/);
    await answered('3 and 4 items');
    await screen.choose('Where Loose goes', /^1:/);
    await answered('3 and 3 items, 1 of them in more than one');
    await screen.fill('[aria-label="Title of part 1"]', 'Tides in autumn');
    await screen.until(() => screen.texts('.parts section').length === 2);
    await answered('3 and 3 items');
    await screen.press('Put the 2 courses on the Bench');
    const [plan] = screen.fixture.componentInstance.made;
    expect(plan?.parts.map((part) => part.title)).toEqual(['Tides in autumn', 'Tides, Spring half']);
    expect(plan?.of).toEqual({ 'n-Start': 'all', f1: 0, f2: 1, 'n-Neap': 1, 'item:Loose': 0 });
  });

  it('says what can’t be, and makes nothing of it', async () => {
    await screen.press('Another part');
    await screen.until(() => screen.words('[role=alert]') !== '');
    expect(screen.words('[role=alert]')).toContain('Nothing goes into “Tides, part 3” alone.');
    expect(screen.button('Put the 3 courses').disabled).toBeTrue();
    await screen.choose('Where Sun goes', /^3:/);
    await screen.until(() => screen.words('[role=alert]').includes('“Tides, Spring half”'));
    // Without the second part the third is the second.
    const removes = [...screen.host.querySelectorAll<HTMLButtonElement>('.head button')];
    removes[1]?.click();
    await answered('4 and 3 items');
    expect(screen.words('[role=alert]')).toBe('');
  });

  it('is cut elsewhere where a person chooses another way', async () => {
    await screen.press('in the middle');
    await answered('items');
    expect(screen.texts('.parts .head').length).toBe(2);
    const title = screen.host.querySelector<HTMLInputElement>('[aria-label="Title of part 2"]');
    expect(title?.value).toBe('Tides, part 2');
  });

  it('is none where there is nothing to cut', async () => {
    screen.fixture.componentInstance.cuts.set({ course: { ...COURSE, outline: [] }, proposals: [] });
    await screen.settle();
    expect(screen.words('.none')).toContain('There is nothing here to cut between');
  });

  it('leads links over the cut to where the other part is, or keeps their words', async () => {
    expect(screen.host.querySelector('[aria-label="Address of part 2"]')).toBeNull();
    screen.fixture.componentInstance.over = [
      [{ item: 'Moon', to: 'Sun', is: 'link', words: 'links to “Sun”', becomes: 'leads nowhere' }],
    ];
    // Asked anew, as whenever something is corrected.
    await screen.choose('Where Neap goes', /^2:/);
    await answered('1 link over the cut');
    expect(screen.texts('.parts section')[0]).toContain('Over the cut: Moon links to “Sun”: leads nowhere');
    expect(screen.host.querySelector('[aria-label="Address of part 1"]')).toBeNull();
    await screen.fill('[aria-label="Address of part 2"]', 'the spring course');
    expect(screen.words('[role=alert]')).toContain('“the spring course” is no address of a course.');
    await screen.fill('[aria-label="Address of part 2"]', 'https://new.example/course/8');
    expect(screen.words('[role=alert]')).toBe('');
    await screen.press('only their words');
    await answered('1 link over the cut');
    await screen.press('Put the 2 courses on the Bench');
    const [plan] = screen.fixture.componentInstance.made;
    expect(plan?.parts.map((part) => part.address)).toEqual([undefined, 'https://new.example/course/8']);
    expect(plan?.cutLinks).toBe('words');
  });

  it('goes on where it was when a person comes back to it', async () => {
    await screen.choose('Where Neap goes', /^2:/);
    await answered('3 and 4 items');
    const host = screen.fixture.componentInstance;
    host.here.set(false);
    await screen.settle();
    host.here.set(true);
    await screen.settle();
    await answered('3 and 4 items');
    expect(host.begun()?.of['n-Neap']).toBe(1);
  });
});
