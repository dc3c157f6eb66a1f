import { TestBed } from '@angular/core/testing';
import { of } from 'rxjs';
import { Api } from '../data/api';
import { House } from '../data/house';
import { Screen } from '../testing/screen';
import { DayField } from './day-field';

describe('A field for a day', () => {
  let days: string[];
  const open = async (day: string) => {
    days = [];
    const screen = new Screen(TestBed.createComponent(DayField));
    screen.fixture.componentInstance.day.subscribe((d) => days.push(d));
    await screen.set({ label: 'Last day', day });
    return screen;
  };
  const shown = (screen: Screen<DayField>) => screen.host.querySelector('input')?.value;

  it('shows a day in an order that no two countries read differently', async () => {
    expect(shown(await open('2026-09-14'))).toBe('14 Sep 2026');
    expect(shown(await open(''))).toBe('');
  });

  it('reads a day in any common order', async () => {
    for (const words of ['14 Sep 2026', '14 september 2026', 'Sep 14, 2026', '2026-09-14', '14.9.2026', '14/09/2026']) {
      const screen = await open('');
      await screen.fill('input', words);
      expect(days.at(-1)).withContext(words).toBe('2026-09-14');
      expect(shown(screen)).withContext(words).toBe('14 Sep 2026');
    }
  });

  it('takes nothing that is no day, and marks it', async () => {
    const screen = await open('2026-09-14');
    await screen.fill('input', '31 Feb 2026');
    await screen.fill('input', 'soon');
    expect(days).toEqual([]);
    expect(screen.host.querySelector('.mat-form-field-invalid, input.ng-invalid, [aria-invalid=true]')).not.toBeNull();
  });

  it('says by which clock it is a day', async () => {
    const zone = { zone: () => of('Europe/London') } satisfies Partial<Api>;
    TestBed.configureTestingModule({ providers: [{ provide: Api, useValue: zone }] });
    TestBed.inject(House).load();
    expect((await open('2026-09-14')).words('.mat-mdc-form-field-text-suffix')).toBe('BST');
    expect((await open('2027-01-29')).words('.mat-mdc-form-field-text-suffix')).toBe('GMT');
    expect((await open('')).words('.mat-mdc-form-field-text-suffix')).toBe('');
  });

  it('is emptied', async () => {
    const screen = await open('2026-09-14');
    await screen.fill('input', '');
    expect(days).toEqual(['']);
  });
});
