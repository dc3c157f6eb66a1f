import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Course, Item, Preview } from '@treenail/core';
import { momentOf, inventory } from '@treenail/core';
import { Observable, of, throwError } from 'rxjs';
import { CourseView } from './course-view';
import type { InsideSource, View } from './source';

const page = (id: string, title: string, settings: Item['settings'] = {}): Item => ({
  kind: 'page',
  id,
  title,
  definitionPath: `${id}.html`,
  file: `${id}.html`,
  settings,
});
const QUIZ: Item = {
  kind: 'quiz',
  id: 'q',
  title: 'Parts test',
  definitionPath: null,
  questions: [],
  settings: { attempts: 2 },
};
const COURSE: Course = {
  title: 'Boats',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: ['clinker'], rights: 'Share alike', description: 'Twelve weeks' },
  outline: [
    {
      id: 'f',
      title: 'Week 1',
      children: [
        { id: 'n1', title: 'Caulking', item: 'a', children: [] },
        { id: 'n2', title: 'Parts test', item: 'q', children: [] },
      ],
    },
    { id: 'n3', title: 'Paying', item: 'b', children: [] },
  ],
  items: [
    page('a', 'Caulking', {
      due: momentOf('2026-10-05T09:00:00Z'),
      visibleWhen: [{ is: 'score', item: 'q', side: 'at least', percent: 60 }],
    }),
    page('b', 'Paying', { opens: momentOf('2026-09-14T09:00:00Z'), closes: momentOf('2026-10-19T09:00:00Z') }),
    QUIZ,
  ],
  files: [
    { path: 'a.html', size: 3000, mediaType: 'text/html', role: 'content' },
    { path: 'b.html', size: 10, mediaType: 'text/html', role: 'content' },
    { path: 'loose.bin', size: 7, mediaType: 'application/octet-stream', role: 'content' },
  ],
  personal: { people: 2, submissions: 0, grades: 1, posts: 0, files: ['people/list.csv'] },
};

describe('A course that is looked into', () => {
  let fixture: ComponentFixture<CourseView>;
  let asked: { item: string; view: View }[];
  let released: string[];
  let exported: string[];
  let answer: (item: Item) => Observable<Preview>;
  const host = () => fixture.nativeElement as HTMLElement;
  const texts = (selector: string) =>
    [...host().querySelectorAll(selector)].map((e) => e.textContent.replace(/\s+/g, ' ').trim());
  const button = (words: string) => {
    const found = [...host().querySelectorAll('button')].find((b) =>
      b.textContent.replace(/\s+/g, ' ').includes(words),
    );
    if (!found) throw new Error(`no button ${words}`);
    return found;
  };
  const settle = async () => {
    await fixture.whenStable();
    // Lists of the size of their window are laid out a frame later.
    await new Promise((done) => requestAnimationFrame(done));
    await fixture.whenStable();
  };
  const press = async (words: string) => {
    button(words).click();
    await settle();
  };

  beforeEach(async () => {
    asked = [];
    released = [];
    exported = [];
    answer = (item) => of({ form: 'text', text: `words of ${item.title}` });
    const source: InsideSource = {
      preview(item, view) {
        asked.push({ item: item.id, view });
        return answer(item);
      },
      search: (question) =>
        of({
          total: 1,
          hits: [
            {
              item: 'b',
              title: 'Paying',
              kind: 'page',
              times: 1,
              inTitle: false,
              excerpt: { text: `so ${question} is`, marks: [[3, 3 + question.length]] },
            },
          ],
        }),
      relations: () =>
        of({
          pointsAt: { a: [{ other: 'b', title: 'Paying', isItem: true, how: 'links to' }] },
          pointedAtBy: { b: [{ other: 'a', title: 'Caulking', isItem: true, how: 'links to' }] },
        }),
      exports: ['csv', 'json'],
      exportInventory: (format) => exported.push(format),
      give: null,
      playAt: () => null,
      mendable: () => true,
      addressOf: (path, mended) =>
        new Observable((told) => {
          told.next({ url: `data:,${path}${mended ? ' mended' : ''}`, release: () => released.push(path) });
        }),
    };
    fixture = TestBed.createComponent(CourseView);
    fixture.componentRef.setInput('course', COURSE);
    fixture.componentRef.setInput('inventory', inventory(COURSE));
    fixture.componentRef.setInput('notes', [
      { code: 'c', message: 'A note.', action: 'Look.', weight: 'remark', file: 'a.html', line: 4 },
    ]);
    fixture.componentRef.setInput('source', source);
    host().style.cssText = 'display:flex;height:700px;width:1000px';
    document.body.append(host());
    await settle();
  });
  afterEach(() => host().remove());

  it('shows what is set of a folder, until an item is opened', async () => {
    const settings = { description: 'In the sail loft', opens: momentOf('2026-10-26') };
    const evenings = { id: 'e', title: 'Evenings', settings, children: [] };
    fixture.componentRef.setInput('course', { ...COURSE, outline: [...COURSE.outline, evenings] });
    await settle();
    await press('Evenings');
    expect(texts('.place h2')).toEqual(['Evenings']);
    expect(texts('.place dd')).toEqual(['In the sail loft', 'Mon 26 Oct 2026']);
    expect(texts('.row.at')).toEqual(['Evenings 0 items']);
    await press('Paying');
    expect(texts('.place')).toEqual([]);
  });

  it('opens with its first page, and says of it what it is and what it hangs on', () => {
    expect(texts('tn-reading-pane h2')).toEqual(['Caulking']);
    expect(texts('tn-reading-pane .rules li')).toEqual(['Visible after “Parts test”, 60 % or more.']);
    expect(texts('tn-reading-pane pre')).toEqual(['words of Caulking']);
    expect(texts('.tag.personal')).toEqual(['personal data: 2 people, 1 grade, 1 file']);
  });

  it('shows the item that is asked for by an address, and another when that is asked for after it', async () => {
    fixture.componentRef.setInput('first', 'q');
    await settle();
    expect(texts('tn-reading-pane h2')).toEqual(['Parts test']);
    await press('Paying');
    // The same course with more known of it changes nothing of what a person chose.
    fixture.componentRef.setInput('course', { ...fixture.componentInstance.course() });
    await settle();
    expect(texts('tn-reading-pane h2')).toEqual(['Paying']);
    fixture.componentRef.setInput('first', 'a');
    await settle();
    expect(texts('tn-reading-pane h2')).toEqual(['Caulking']);
  });

  it('folds folders, and is gone through by kind', async () => {
    const titles = () => texts('[aria-label="Outline"] .row > b, [aria-label="Outline"] .row > button:not(.fold)');
    expect(titles()).toEqual(['Week 1', 'Caulking', 'Parts test', 'Paying']);
    host().querySelector<HTMLElement>('[aria-label="Fold Week 1"]')?.click();
    await settle();
    expect(titles()).toEqual(['Week 1', 'Paying']);
    await press('1 quiz');
    expect(titles()).toEqual(['Parts test']);
  });

  it('shows a quiz as a learner meets it when asked to', async () => {
    await press('Parts test');
    await press('as a learner meets it');
    expect(asked.at(-1)).toEqual({ item: 'q', view: { learner: true, question: '', mended: false } });
  });

  it('shows what became of an item, and reads long films part by part', async () => {
    await press('Paying');
    await press('as mended');
    expect(asked.at(-1)).toEqual({ item: 'b', view: { learner: false, question: '', mended: true } });
    answer = () => of({ form: 'long', as: 'video', path: 'films/steam.mp4' });
    await press('Caulking');
    expect(host().querySelector('video')?.getAttribute('src')).toBe('data:,films/steam.mp4 mended');
    expect(released).toEqual([]);
    answer = () => of({ form: 'none', why: 'it is left out' });
    await press('Paying');
    expect(texts('.none')).toContain('No preview: it is left out.');
    expect(released).toEqual(['films/steam.mp4']);
  });

  it('says that what reports to a player can be played once a copy is kept', async () => {
    const items = COURSE.items.map((i) => (i.id === 'b' ? { ...i, settings: { tracked: true } } : i));
    fixture.componentRef.setInput('course', { ...COURSE, items });
    await settle();
    await press('Paying');
    expect(host().querySelector('tn-reading-pane header')?.textContent).toContain(
      'It can be played once a copy is kept.',
    );
  });

  it('searches, shows what stands around, and marks it where it is opened', async () => {
    const field = host().querySelector<HTMLInputElement>('input[type=search]');
    if (!field) throw new Error('no field');
    field.value = 'cotton';
    field.dispatchEvent(new Event('input'));
    await settle();
    // Asked once the typing pauses.
    for (let frame = 0; frame < 120 && texts('.hit').length === 0; frame++) await settle();
    expect(texts('.hit b')).toEqual(['Paying']);
    expect(texts('.hit mark')).toEqual(['cotton']);
    host().querySelector<HTMLElement>('.hit')?.click();
    await settle();
    expect(asked.at(-1)).toEqual({ item: 'b', view: { learner: false, question: 'cotton', mended: false } });
  });

  it('leads from an item to what points at it', async () => {
    await press('Paying');
    const details = host().querySelector('.related');
    if (!details) throw new Error('no relations');
    expect(details.querySelector('mat-expansion-panel-header')?.textContent).toContain('Pointed at by 1 thing');
    details.querySelector<HTMLButtonElement>('li button')?.click();
    await settle();
    expect(texts('tn-reading-pane h2')).toEqual(['Caulking']);
  });

  it('says why there is no preview, and what went wrong with one', async () => {
    answer = () => of({ form: 'none', why: 'too long to show here' });
    await press('Paying');
    expect(texts('tn-reading-pane .none')).toEqual(['No preview: too long to show here.']);
    answer = () => throwError(() => new Error('x'));
    await press('Caulking');
    expect(texts('tn-reading-pane [role=alert]')[0]).toContain('Something went wrong');
  });

  it('counts what is in it, gives it as a file, and leads from a file to its item', async () => {
    await press('what is in it');
    expect(texts('tn-inventory-view .head p')[0]).toBe(
      '3.0 kB in 3 files, of which 7 B in 1 file that nothing uses What of it Treenail does not read is not counted in archives of this kind',
    );
    expect(texts('tn-inventory-view h3')).toContain('The biggest files');
    expect(texts('tn-inventory-view .words dd')).toContain('Share alike');
    await press('CSV');
    expect(exported).toEqual(['csv']);
    expect(host().querySelectorAll('tn-inventory-view rect').length).toBe(3);
    await press('a.html');
    expect(texts('tn-reading-pane h2')).toEqual(['Caulking']);
  });

  it('shows its dates on a strip, and leads from one to its item', async () => {
    await press('dates');
    expect(texts('tn-date-strip .title')).toEqual(['Paying', 'Caulking']);
    expect(host().querySelectorAll('tn-date-strip .scroll path').length).toBe(3);
    expect(host().querySelectorAll('tn-date-strip .span').length).toBe(1);
    host()
      .querySelectorAll('tn-date-strip g')[0]
      ?.dispatchEvent(new MouseEvent('click', { bubbles: true }));
    await settle();
    expect(texts('tn-reading-pane h2')).toEqual(['Paying']);
  });

  it('opens its notes, with the line they are about', async () => {
    await press('1 note');
    expect(texts('.notelist code')).toEqual(['a.html, line 4']);
  });
});
