import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { EXAMPLE_DESCRIPTIONS, Refusal, type Course, type Problem, type Trial } from '@treenail/core';
import type { DescriptionAnswer, NewDescription } from '@treenail/server/contract';
import { Subject, of, throwError, type Observable } from 'rxjs';
import type { Source } from '../bench/messages';
import { Api } from '../data/api';
import { Screen, wordsOf } from '../testing/screen';
import { ArchiveInHand } from './archive-in-hand';
import { DescribePage } from './describe';
import { DescribeService } from './describe.service';
import { Editor } from './editor';
import type { ArchiveOpened, Tried } from './messages';

const SOURCE: Source = { name: 'loft.pack', size: 2048, address: '/loft.pack' };
const ARCHIVE: ArchiveOpened = { files: [{ path: 'course.xml', size: 512 }], starter: '{ "archive": "loft" }' };
const course: Course = {
  title: 'Sail Loft',
  origin: { format: 'described', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [{ id: 'f', title: 'Week 1', children: [{ id: 'n', title: 'Seams', item: 'p', children: [] }] }],
  items: [{ kind: 'page', id: 'p', title: 'Seams', definitionPath: 'p.html', file: 'p.html', settings: {} }],
  files: [],
};
const TRIAL: Trial = {
  fits: true,
  course,
  notes: [],
  rules: [
    {
      rule: 'outline.0.inside.1',
      records: 3,
      first: { file: 'course.xml' },
      fields: [{ name: 'title', found: 2, sample: 'Seams' }],
      unread: [{ place: '@colour', found: 3, sample: 'red' }],
    },
  ],
  foreign: ['notes.bin'],
};
const SLIP: Problem = { code: 'description-malformed', message: 'A comma is missing.', action: 'Write one.', line: 2 };
const keptAs = (version: number, text: string, inUse = true): DescriptionAnswer => ({
  archive: 'loft',
  inUse,
  versions: Array.from({ length: version }, (_, i) => ({
    version: version - i,
    text: i === 0 ? text : `older ${version - i}`,
    note: '',
    changedBy: null,
    changedAt: '2026-11-01T10:00:00Z',
  })),
});

describe('The page that describes an archive', () => {
  let screen: Screen<DescribePage>;
  let asked: NewDescription[];
  let answer: (asked: NewDescription) => Observable<DescriptionAnswer>;
  /** Who waits for the next time that the archive is tried with what was written. */
  let waiting: (() => void)[];
  let opening: () => Promise<ArchiveOpened>;
  /** Rows of the table that is shown, cells parted by a space. */
  const lines = () =>
    [...screen.host.querySelectorAll('tbody tr')].map((r) =>
      [...r.querySelectorAll('td')].map(wordsOf).join(' ').trim(),
    );
  const written = () =>
    screen.fixture.debugElement.query((d) => d.componentInstance instanceof Editor).componentInstance as Editor;
  /** Does something that has the archive tried anew, and waits for what that found. */
  const untilTried = async (work: () => unknown) => {
    const tried = new Promise<void>((done) => waiting.push(done));
    await work();
    await screen.settle();
    await tried;
    await screen.settle();
  };
  const write = (text: string) => untilTried(() => written().text.set(text));

  beforeEach(async () => {
    asked = [];
    waiting = [];
    answer = ({ text, inUse, after }) => of(keptAs(after + 1, text, inUse));
    opening = () => Promise.resolve(ARCHIVE);
    const service: Partial<DescribeService> = {
      open: () => opening(),
      attempt: (text): Promise<Tried> => {
        waiting.splice(0).forEach((go) => go());
        return Promise.resolve(
          text.includes('slip')
            ? { problems: [SLIP], trial: null }
            : { problems: [], trial: TRIAL, lines: new Map([['outline.0.inside.1', 4]]) },
        );
      },
      peek: () => Promise.resolve({ text: '<course>', cut: true }),
    };
    const known = {
      archive: 'loft',
      name: 'Loft',
      version: 2,
      text: '',
      inUse: true,
      changedAt: '2026-11-01T10:00:00Z',
    };
    const api: Partial<Api> = {
      descriptions: () => of([known]),
      description: () => of(keptAs(2, 'the newest')),
      keepDescription: (wanted) => {
        asked.push(wanted);
        return answer(wanted);
      },
    };
    TestBed.configureTestingModule({ providers: [provideRouter([]), { provide: Api, useValue: api }] });
    TestBed.overrideComponent(DescribePage, { set: { providers: [{ provide: DescribeService, useValue: service }] } });
    TestBed.inject(ArchiveInHand).source.set(SOURCE);
  });
  const open = async () => {
    screen = new Screen(TestBed.createComponent(DescribePage));
    await screen.settle();
  };

  it('opens what was brought along, and begins with what can be guessed from it', async () => {
    await untilTried(open);
    expect(TestBed.inject(ArchiveInHand).source()).toBeNull();
    expect(screen.words('.what p')).toBe('loft.pack 2.0 kB, 1 file');
    expect(written().text()).toBe(ARCHIVE.starter);
    expect(screen.words('.right h2')).toBe('1 item in 1 folder');
  });

  it('shows what it finds: records with their fields, what is still foreign, and the files', async () => {
    await open();
    await write('a description');
    await screen.press('Records found');
    expect(lines()).toEqual(['outline 1 › inside 2 3 course.xml', 'title 2 Seams']);
    expect(screen.host.querySelector('.few')?.textContent).toBe('2');
    await screen.press('Still foreign');
    expect(lines()).toEqual(['outline 1 › inside 2 @colour 3 red', 'file notes.bin']);
    await screen.press('Files');
    await screen.unroll();
    await screen.press('course.xml');
    expect(screen.host.querySelector('pre')?.textContent).toBe('<course>\n…');
  });

  it('tells a slip with its line, and goes on showing what was found before it', async () => {
    await open();
    await write('a description');
    await write('a slip');
    expect(screen.texts('.problems li')).toEqual(['line 2 A comma is missing. Write one.']);
    expect(screen.words('.right h2')).toBe('1 item in 1 folder');
    expect(screen.words('.right .tag')).toBe('as before the slip');
    expect(screen.button('Keep version').disabled).toBeTrue();
  });

  it('keeps versions, each over the one it was written over, and takes an earlier one back', async () => {
    await open();
    await write('first');
    await screen.press('Keep version 1');
    expect(asked).toEqual([{ text: 'first', inUse: true, note: '', after: 0 }]);
    expect(screen.words('.said')).toBe('Version 1 is kept. Archives of this kind are read by it from now on.');
    // Nothing has changed since.
    expect(screen.button('Keep version 2').disabled).toBeTrue();
    await screen.pick('Begin with…', 'Loft, version 2');
    expect(written().text()).toBe('the newest');
    await screen.choose('Earlier versions', /^version 1,/);
    expect(written().text()).toBe('older 1');
    const use = screen.host.querySelector<HTMLInputElement>('footer mat-checkbox input');
    use?.click();
    await screen.settle();
    await screen.press('Keep version 3');
    expect(asked.at(-1)).toEqual({ text: 'older 1', inUse: false, note: '', after: 2 });
    expect(screen.words('.said')).toBe('Version 3 is kept, and not used yet.');
  });

  it('is kept once, however often that is asked for', async () => {
    await open();
    await write('first');
    const coming = new Subject<DescriptionAnswer>();
    answer = () => coming;
    const keep = screen.button('Keep version 1');
    keep.click();
    keep.click();
    await screen.settle();
    expect([asked.length, keep.disabled]).toEqual([1, true]);
    coming.next(keptAs(1, 'first'));
    coming.complete();
    await screen.settle();
    expect(screen.host.textContent).toContain('Version 1 is kept.');
  });

  it('begins with an example, and says why something was refused', async () => {
    opening = () =>
      Promise.reject(new Refusal({ code: 'not-a-zip', message: 'This is not a zip file.', action: 'Choose another.' }));
    await open();
    expect(screen.words('[role=alert]')).toBe('This is not a zip file. Choose another.');
    const [example] = EXAMPLE_DESCRIPTIONS;
    if (!example) throw new Error('no example');
    await untilTried(() => screen.pick('Begin with…', `Example: ${example.label}`));
    expect(written().text()).toBe(example.text);
    answer = () => throwError(() => new Error('Somebody else has kept version 1.'));
    await screen.press('Keep version 1');
    expect(screen.words('[role=alert]')).not.toBe('');
    expect(screen.host.querySelector('.said')).toBeNull();
  });
});
