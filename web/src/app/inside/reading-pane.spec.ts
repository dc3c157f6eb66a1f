import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { momentOf } from '@treenail/core';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Course, Item, Preview } from '@treenail/core';
import { Observable, Subject, of, throwError } from 'rxjs';
import { Screen } from '../testing/screen';
import { ReadingPaneHarness } from './reading-pane.harness';
import { ReadingPane } from './reading-pane';
import type { FileAddress, InsideSource, View } from './source';

const page: Item = {
  kind: 'page',
  id: 'p',
  title: 'Splices',
  definitionPath: 'p.html',
  file: 'p.html',
  settings: { due: momentOf('2026-10-02T22:00:00Z'), attachments: ['m/rope.pdf'] },
};
const quiz: Item = {
  kind: 'quiz',
  id: 'q',
  title: 'Check',
  definitionPath: null,
  settings: { attempts: 2 },
  questions: [],
};
const film: Item = { kind: 'file', id: 'f', title: 'Launch', definitionPath: null, file: 'launch.mp4', settings: {} };
const object: Item = { ...page, id: 'o', title: 'Simulator', settings: { tracked: true } };
const COURSE: Course = {
  title: 'Rigging',
  origin: { format: 'cc', version: '1.1', untouched: true },
  metadata: { keywords: [] },
  outline: [],
  items: [page, quiz, film, object],
  files: [],
};

describe('The reading pane', () => {
  let screen: Screen<ReadingPane>;
  let pane: ReadingPaneHarness;
  let asked: [id: string, view: View][];
  let released: string[];
  const mendable = signal(false);
  const open = async (item: Item, preview: (item: Item) => Observable<Preview>, more: Partial<InsideSource> = {}) => {
    asked = [];
    released = [];
    const source: Partial<InsideSource> = {
      preview(one, view) {
        asked.push([one.id, view]);
        return preview(one);
      },
      mendable,
      addressOf: (path) => of<FileAddress>({ url: `data:,${path}`, release: () => void released.push(path) }),
      playAt: () => null,
      ...more,
    };
    screen = new Screen(TestBed.createComponent(ReadingPane));
    await screen.set({ item, course: COURSE, source, relations: null });
    pane = await TestbedHarnessEnvironment.harnessForFixture(screen.fixture, ReadingPaneHarness);
  };
  beforeEach(() => mendable.set(false));
  const html = (text: string) => () => of<Preview>({ form: 'page', html: text });

  it('shows a page in a frame that may nothing', async () => {
    await open(page, html('<p>Tuck</p><script>parent.document.title = "x"</script>'));
    expect([await pane.rights(), screen.host.querySelector('iframe')?.title]).toEqual(['', 'Preview of Splices']);
    expect(await pane.page()).toContain('Tuck');
  });

  it('tells how many questions are drawn from which bank', async () => {
    const draws = { bank: '2', knots: 'all' };
    const bank: Item = {
      kind: 'bank',
      id: 'bank',
      title: 'Hitches',
      definitionPath: null,
      settings: {},
      questions: [],
    };
    await open({ ...quiz, settings: { draws } }, html(''));
    await screen.set({ course: { ...COURSE, items: [...COURSE.items, bank] } });
    expect(screen.texts('dd')).toContain('2 of “Hitches”, all of knots');
  });

  it('tells settings in words: dates with their zone, files by their names', async () => {
    await open(page, html(''));
    const told = [...(await pane.settings()).values()];
    expect(told).toContain('rope.pdf');
    expect(told.some((v) => /2 October 2026|3 October 2026|Oct/.test(v))).toBeTrue();
  });

  it('shows a quiz with its keys, or as a learner meets it', async () => {
    await open(quiz, html(''));
    expect(asked.at(-1)?.[1].learner).toBeFalse();
    await pane.look('as a learner meets it');
    expect(asked.at(-1)?.[1].learner).toBeTrue();
    await screen.set({ item: page });
    expect(await pane.ways()).toEqual([]);
  });

  it('shows what was mended only where something was', async () => {
    await open(page, html(''));
    expect(screen.texts('mat-button-toggle')).toEqual([]);
    mendable.set(true);
    await screen.settle();
    await screen.press('as mended');
    expect(asked.at(-1)?.[1].mended).toBeTrue();
    // Everything was undone: what it came as is all there is.
    mendable.set(false);
    await screen.settle();
    expect(asked.at(-1)?.[1].mended).toBeFalse();
  });

  it('lets go of a long film when another item is shown', async () => {
    const long: Preview = { form: 'long', path: 'launch.mp4', as: 'video' };
    await open(film, (item) => (item.id === 'f' ? of(long) : of<Preview>({ form: 'text', text: 'Words' })));
    expect(screen.host.querySelector('video')?.getAttribute('src')).toBe('data:,launch.mp4');
    await screen.set({ item: page });
    expect(screen.host.querySelector('video')).toBeNull();
    expect(screen.words('pre')).toBe('Words');
    expect(released).toEqual(['launch.mp4']);
  });

  it('says why there is no preview, and why it could not be given', async () => {
    await open(film, () => of<Preview>({ form: 'none', why: 'it is left out' }));
    expect(screen.words('.none')).toBe('No preview: it is left out.');
    await open(film, (item) =>
      item === film ? throwError(() => new Error('x')) : of<Preview>({ form: 'text', text: 'y' }),
    );
    expect(screen.words('[role=alert]')).not.toBe('');
    await screen.set({ item: page });
    expect(screen.words('[role=alert]')).toBe('');
  });

  it('plays what can be played, stops, and says when a copy is wanted first', async () => {
    const address = new Subject<string>();
    await open(object, html('<p>x</p>'), { playAt: () => address });
    await screen.press('Play it');
    address.next('about:blank');
    await screen.settle();
    expect(screen.host.querySelector('tn-player')).not.toBeNull();
    await screen.press('Stop playing');
    expect(screen.host.querySelector('tn-player')).toBeNull();
    await open(object, html(''));
    expect(screen.host.textContent).toContain('It can be played once a copy is kept.');
  });

  it('leads to what points at it', async () => {
    await open(page, html(''));
    const chosen: string[] = [];
    screen.fixture.componentInstance.chosen.subscribe((id) => chosen.push(id));
    const one = { other: 'q', title: 'Check', isItem: true, how: 'link' };
    const file = { other: 'm/rope.pdf', title: 'm/rope.pdf', isItem: false, how: 'uses' };
    await screen.set({ relations: { pointsAt: { p: [file] }, pointedAtBy: { p: [one] } } });
    expect(screen.texts('mat-expansion-panel-header')).toEqual(['Points at 1 thing', 'Pointed at by 1 thing']);
    await screen.press('Check');
    expect(chosen).toEqual(['q']);
  });
});
