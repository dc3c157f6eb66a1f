import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import type { RemoteExportSummary } from '@treenail/server/contract';
import { of, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { Screen } from '../testing/screen';
import { ExportsDialog } from './exports-dialog';

const one = (id: string, more: Partial<RemoteExportSummary> = {}): RemoteExportSummary => ({
  id,
  course: `BTB 210-01 ${id}`,
  bytes: 2048,
  ready: true,
  madeAt: '2026-11-01T10:00:00Z',
  ours: true,
  ...more,
});

describe('Exports that lie at a platform', () => {
  let lying: RemoteExportSummary[];
  let cleared: string[][];
  let answer: Observable<RemoteExportSummary[]>;

  async function open(): Promise<Screen<ExportsDialog>> {
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: { id: 3, name: 'Marrowick Live', exportsCount: true } },
        { provide: MatDialogRef, useValue: {} },
        {
          provide: Api,
          useValue: {
            exportsAt: () => of(lying),
            clearExports: (_id: number, asked: { exports: string[] }) => {
              cleared.push(asked.exports);
              return answer;
            },
          },
        },
      ],
    });
    const screen = new Screen(TestBed.createComponent(ExportsDialog));
    await screen.settle();
    return screen;
  }

  beforeEach(() => {
    cleared = [];
    answer = of([]);
    lying = [one('a'), one('b', { ours: false, madeAt: null }), one('c', { ready: false, bytes: null })];
  });

  it('are listed with what they take, since when, and whose they are', async () => {
    const screen = await open();
    expect(screen.words('p.quiet').replaceAll('\u00a0', ' ')).toContain(
      '3 exports, 4.1 kB. They count against the quotas',
    );
    expect(screen.texts('td:nth-child(3)')).toEqual([
      '1 Nov 2026 10:00, by Treenail',
      'not told when, by somebody else',
      '1 Nov 2026 10:00, by Treenail',
    ]);
    expect(screen.texts('td:nth-child(4)').at(-1)).toBe('being made');
  });

  it('are removed where they are chosen, all that are ready at once', async () => {
    const screen = await open();
    expect(screen.button('Remove the chosen').disabled).toBeTrue();
    screen.host.querySelector<HTMLInputElement>('th input')?.click();
    await screen.settle();
    await screen.press('Remove 2 exports there');
    expect(cleared).toEqual([['a', 'b']]);
  });

  it('stay, with the reason, where the platform refuses; and it is said when there are none', async () => {
    answer = throwError(() => new Error('no'));
    const screen = await open();
    screen.host.querySelector<HTMLInputElement>('td input')?.click();
    await screen.settle();
    await screen.press('Remove 1 export there');
    expect(screen.words('[role=alert]')).not.toBe('');
    TestBed.resetTestingModule();
    lying = [];
    expect((await open()).words('mat-dialog-content')).toBe('Nothing lies there.');
  });
});
