import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { problem } from '@treenail/core';
import { KeepingService, type Keeping } from '../data/keeping';
import { Screen } from '../testing/screen';
import type { Dropped } from './dropped';
import { Shelf } from './shelf';

const file = (name: string, more: Partial<Dropped> = {}): Dropped => ({
  key: name,
  source: { name, size: 2_500_000 } as Dropped['source'],
  glance: null,
  refusal: null,
  ...more,
});
const glance = { label: 'Common Cartridge 1.1', title: 'Sailmaking', items: 12, notes: 0, blob: null };
const FILES = [
  file('sai.imscc', { glance }),
  file('rig.zip', { glance: { ...glance, title: 'Rigging', notes: 3 } }),
  file('list.pdf', { refusal: problem('not-a-zip', 'This is not a zip file.', {}, 'Choose the package.') }),
  file('late.zip'),
];

describe('Many files on the Bench', () => {
  const all = signal<ReadonlyMap<string, Keeping>>(new Map());
  let screen: Screen<Shelf>;
  let chosen: string[];

  beforeEach(async () => {
    all.set(new Map());
    chosen = [];
    TestBed.configureTestingModule({
      providers: [provideRouter([]), { provide: KeepingService, useValue: { all } }],
    });
    screen = new Screen(TestBed.createComponent(Shelf));
    screen.fixture.componentInstance.chosen.subscribe((one) => chosen.push(one.key));
    await screen.set({ dropped: FILES });
    await screen.unroll();
  });

  it('are listed with what each is, or why it is none, or that it is being read', () => {
    const [sail, rig, list, late] = screen.texts('tbody tr');
    expect(sail).toMatch(/^sai\.imscc ?2\.5\sMB ?Sailmaking ?Common Cartridge 1\.1 ?12$/);
    expect(rig).toMatch(/12 ?3$/);
    expect(list).toContain('This is not a zip file. Choose the package.');
    // Where the column is too narrow for it, all of it can still be read.
    expect(screen.host.querySelector('td[title="This is not a zip file. Choose the package."]')).not.toBeNull();
    expect(late).toContain('being read');
  });

  it('are opened by their names, but for those that can not be', async () => {
    await screen.press('rig.zip');
    expect(chosen).toEqual(['rig.zip']);
    expect(() => screen.button('list.pdf')).toThrow();
    expect(() => screen.button('late.zip')).toThrow();
  });

  it('say how far each is kept', async () => {
    all.set(
      new Map<string, Keeping>([
        ['sai.imscc', { state: 'kept', fileName: 'sai.imscc', job: 1 }],
        ['rig.zip', { state: 'sending', fileName: 'rig.zip', done: 999, total: 2000 }],
        ['late.zip', { state: 'sending', fileName: 'late.zip', done: 0, total: 0 }],
      ]),
    );
    await screen.settle();
    const kept = () => screen.texts('tbody td:last-child');
    expect(kept()).toEqual(['kept', 'sending, 49 %', '', 'sending, 0 %']);
    expect(screen.host.querySelector('a')?.getAttribute('href')).toBe('/strongroom');
    all.set(
      new Map<string, Keeping>([
        ['sai.imscc', { state: 'reading', fileName: 'sai.imscc', job: 4 }],
        [
          'rig.zip',
          {
            state: 'refused',
            fileName: 'rig.zip',
            problem: problem('text-too-long', 'It is too large.', {}, 'Split it.'),
          },
        ],
      ]),
    );
    await screen.settle();
    expect(kept().slice(0, 2)).toEqual(['arrived, being read', 'It is too large.']);
  });
});
