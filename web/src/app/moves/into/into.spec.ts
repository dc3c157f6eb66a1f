import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { MatSelectHarness } from '@angular/material/select/testing';
import type { Course, Item, Meeting } from '@treenail/core';
import type { Into, IntoAnswer, IntoChoice, Looked, MeetRequest } from '@treenail/server/contract';
import { of } from 'rxjs';
import { Api } from '../../data/api';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { move } from '../../testing/made';
import { Screen, wordsOf } from '../../testing/screen';
import { DeliverInto } from './deliver-into';
import { IntoDialog } from './into-dialog';
import { Meetings } from './meetings';
import { TakeBackDialog } from './take-back-dialog';

const page = (id: string, title: string): Item => ({
  kind: 'page',
  id,
  title,
  definitionPath: null,
  settings: {},
  file: `${id}.html`,
});
const courseOf = (...items: Item[]): Course => ({
  title: 'Sailmaking',
  origin: { format: 'x', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: items.map((i) => ({ id: `n-${i.id}`, title: i.title, item: i.id, children: [] })),
  items,
  files: [],
});
const LOOKED: Looked = {
  courseId: 7,
  title: 'Sailmaking',
  url: 'https://new.example/space/s2',
  course: courseOf(page('a', 'Welcome'), page('b', 'Canvas')),
  standing: {
    tutors: 1,
    learners: 5,
    work: 3,
    workedIn: ['e1'],
    shut: false,
    mayChange: true,
    turn: '4',
    held: ['u1', 'e1', 'e2'],
  },
  lookedAt: '2026-12-01T10:00:00Z',
  identifiers: 'overwritten',
  names: {},
  ways: ['beside', 'into', 'in place of'],
  unless: '',
};
const INTO: Into = { ...LOOKED, id: 's2', way: 'in place of', chosen: {}, rule: '' };

const MEETING: Meeting = {
  first: 'a',
  second: 'c',
  title: 'Welcome',
  theirs: 'Welcome',
  kind: 'page',
  by: 'title',
  same: false,
  is: 'both',
  can: ['both', 'theirs', 'ours', 'ours, set as theirs'],
  differs: ['points', 'attempts allowed'],
  why: '',
};

describe('A delivery into a course that is there', () => {
  let answer: IntoAnswer;
  let chosen: IntoChoice[];
  let looked: Looked;
  let closed: unknown[];
  let back: { can: boolean; says: string[] };

  beforeEach(() => {
    answer = {
      into: INTO,
      says: ['2 items (2 pages) of “Sailmaking” will be gone.'],
      meets: [],
      titles: {},
      typed: 'Sailmaking',
    };
    chosen = [];
    closed = [];
    looked = LOOKED;
    back = { can: true, says: ['What came will be taken out.'] };
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        { provide: MAT_DIALOG_DATA, useValue: move(3) },
        { provide: MatDialogRef, useValue: { close: (result: unknown) => void closed.push(result) } },
        {
          provide: Api,
          useValue: {
            fit: () =>
              of({
                forecast: { lines: [] },
                course: courseOf(page('b', 'Canvas anew'), page('c', 'Welcome'), page('d', 'Needles')),
              }),
            targets: () =>
              of({
                can: true,
                listedAt: null,
                more: 3,
                targets: [
                  {
                    courseId: 7,
                    code: 'SAI 160',
                    section: '02',
                    term: 'Spring 2027',
                    title: 'Sailmaking',
                    why: 'same code',
                  },
                  { courseId: 8, code: 'STF 001', section: '01', term: 'Spring 2027', title: 'Working', why: '' },
                ],
              }),
            lookAt: () => of(looked),
            goInto: (_id: number, { choice }: { choice: IntoChoice }) => {
              chosen.push(choice);
              return of(answer);
            },
            back: () => of(back),
            takeBack: () => of(move(3, { at: 'deliver' })),
          },
        },
      ],
    });
  });

  it('shows three outlines with what becomes of each line, and asks for the title where work would be lost', async () => {
    const screen = new Screen(TestBed.createComponent(DeliverInto));
    const sent: string[] = [];
    screen.fixture.componentInstance.send.subscribe((typed) => sent.push(typed));
    await screen.set({ move: move(3), told: answer });
    expect(screen.words('h2')).toBe('Deliver in place of what is in Sailmaking at Marrowick New');
    const lines = () => [...screen.host.querySelectorAll('tn-three-outlines li')].map((l) => [l.className, wordsOf(l)]);
    await screen.until(() => lines().length === 5);
    expect(lines().map(([fate]) => fate)).toEqual(['gone', 'gone', 'new', 'new', 'new']);
    expect(lines()[0]?.[1]).toMatch(/^Welcome.*is gone$/);
    const button = () => screen.host.querySelector<HTMLButtonElement>('.acts button');
    expect(button()?.disabled).toBeTrue();
    const input = screen.host.querySelector('input');
    if (!input) throw new Error('nothing to type into');
    input.value = 'Sailmaking';
    input.dispatchEvent(new Event('input'));
    await screen.settle();
    expect(button()?.disabled).toBeFalse();
    await screen.press('Deliver in place of what is there');
    expect(sent).toEqual(['Sailmaking']);
  });

  it('beside what is there tells what stays, what is overwritten and what will be there twice', async () => {
    const screen = new Screen(TestBed.createComponent(DeliverInto));
    const meets: Meeting[] = [
      { ...MEETING, first: 'b', second: 'b', title: 'Canvas anew', theirs: 'Canvas', by: 'identifier', is: 'ours' },
      { ...MEETING, is: 'both' },
    ];
    const told = { ...answer, into: { ...INTO, way: 'beside' as const }, meets, typed: '' };
    await screen.set({ move: move(3), told });
    const lines = () => [...screen.host.querySelectorAll('tn-three-outlines li')].map((l) => l.className);
    await screen.until(() => lines().length === 4);
    expect(lines()).toEqual(['stays', 'overwritten', 'double', 'new']);
  });

  it('lets a person decide what becomes of each that meets its like, or of all', async () => {
    const screen = new Screen(TestBed.createComponent(Meetings));
    const asked: MeetRequest[] = [];
    screen.fixture.componentInstance.decide.subscribe((one) => asked.push(one));
    const worked: Meeting = { ...MEETING, second: 'x', can: ['both', 'theirs'], is: 'both', same: true };
    await screen.set({ meets: [MEETING, worked], chosen: { y: 'theirs' }, rule: '' });
    expect(screen.host.textContent).toContain('2 items have a counterpart there');
    expect(screen.host.textContent).toContain('1 not the same');
    const cells = [...screen.host.querySelectorAll('tbody tr')].map((row) => wordsOf(row));
    expect(cells[0]).toContain('of the same name page kind and title points, attempts allowed');
    await screen.press('ours takes its place');
    // Of where it can't be so the answer says why.
    expect(asked.at(-1)).toEqual({ chosen: { c: 'ours', x: 'ours' }, rule: '' });
    const name = screen.host.querySelector<HTMLInputElement>('input');
    if (!name) throw new Error('nothing to type into');
    name.value = '{title} (new)';
    name.dispatchEvent(new Event('change'));
    expect(asked.at(-1)).toEqual({ chosen: { y: 'theirs' }, rule: '{title} (new)' });
    const select = await TestbedHarnessEnvironment.loader(screen.fixture).getHarness(MatSelectHarness);
    await select.open();
    await select.clickOptions({ text: 'ours, set as theirs is' });
    expect(asked.at(-1)).toEqual({ chosen: { y: 'theirs', c: 'ours, set as theirs' }, rule: '' });
    await screen.set({ meets: [{ ...MEETING, is: 'theirs' }] });
    expect(screen.host.querySelector('input')).toBeNull();
  });

  it('is chosen from courses that match, after a look at what is there and who is in it', async () => {
    const screen = new Screen(TestBed.createComponent(IntoDialog));
    await screen.settle();
    expect(screen.words('.targets')).toContain('SAI 160-02 Sailmaking, Spring 2027 same code');
    expect(screen.host.textContent).toContain('3 more courses');
    screen.host.querySelector<HTMLInputElement>('.targets input')?.click();
    await screen.until(() => screen.host.querySelector('.looked') !== null);
    expect(screen.words('.looked p')).toBe(
      'Sailmaking holds 2 items (2 pages). 5 learners and 1 tutor are in it. Learners did 3 things in it.',
    );
    screen.host.querySelectorAll<HTMLInputElement>('.looked input')[2]?.click();
    await screen.settle();
    await screen.press('Go in place of what is there');
    expect(chosen).toEqual([{ courseId: 7, way: 'in place of' }]);
    expect(closed).toEqual([answer]);
  });

  it('is not offered into a course that is shut', async () => {
    looked = { ...LOOKED, standing: { ...LOOKED.standing, shut: true } };
    const screen = new Screen(TestBed.createComponent(IntoDialog));
    await screen.settle();
    screen.host.querySelector<HTMLInputElement>('.targets input')?.click();
    await screen.until(() => screen.host.querySelector('.looked') !== null);
    expect(screen.words('.looked .error')).toContain('It is shut');
    expect(screen.host.querySelector<HTMLButtonElement>('mat-dialog-actions button:last-child')?.disabled).toBeTrue();
  });

  it('is taken back once it was said what that does, and not where it can not be', async () => {
    const screen = new Screen(TestBed.createComponent(TakeBackDialog));
    await screen.settle();
    expect(screen.host.textContent).toContain('What came will be taken out.');
    await screen.press('Take it back');
    expect(closed).toHaveSize(1);
    back = { can: false, says: ['Learners have worked in it meanwhile.'] };
    const other = new Screen(TestBed.createComponent(TakeBackDialog));
    await other.settle();
    expect(other.host.textContent).toContain('It can not be taken back.');
    expect(other.host.querySelector<HTMLButtonElement>('mat-dialog-actions button:last-child')?.disabled).toBeTrue();
  });
});
