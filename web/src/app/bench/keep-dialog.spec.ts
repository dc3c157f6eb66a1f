import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import type { Named } from '@treenail/core';
import { Screen } from '../testing/screen';
import { KeepDialog } from './keep-dialog';

describe('Keeping a copy of a file', () => {
  let kept: unknown[];
  const open = async (fileName: string, more: Partial<Named> = {}): Promise<Screen<KeepDialog>> => {
    kept = [];
    const guess = { code: 'SAI 160', section: '01', term: 'Autumn 2026', title: 'Sailmaking', ...more };
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: { fileName, guess } },
        { provide: MatDialogRef, useValue: { close: (named: unknown) => kept.push(named) } },
      ],
    });
    const screen = new Screen(TestBed.createComponent(KeepDialog));
    await screen.settle();
    return screen;
  };
  const write = async (screen: Screen<KeepDialog>, name: string, words: string) => {
    const field = screen.host.querySelector<HTMLInputElement>(`[formcontrolname=${name}]`);
    if (!field) throw new Error(`no ${name}`);
    field.value = words;
    field.dispatchEvent(new Event('input'));
    await screen.settle();
  };

  it('shows what the copy will be named while its course is being named', async () => {
    const screen = await open('export_7f3a.IMSCC');
    expect(screen.words('h2')).toContain('export_7f3a.IMSCC');
    expect(screen.words('code')).toMatch(/SAI ?160.*Sailmaking.*\.imscc$/);
    await write(screen, 'code', 'RIG 140');
    expect(screen.words('code')).toMatch(/RIG ?140.*\.imscc$/);
  });

  it('keeps the whole of a double extension, and takes a zip where there is none', async () => {
    expect((await open('course.tar.gz')).words('code')).toMatch(/\.tar\.gz$/);
    TestBed.resetTestingModule();
    expect((await open('a folder')).words('code')).toMatch(/\.zip$/);
  });

  it('gives the names as they were written, and none without a title', async () => {
    const screen = await open('sai.imscc', { title: 'x'.repeat(400) });
    expect(screen.host.querySelector<HTMLInputElement>('[formcontrolname=title]')?.value.length).toBe(300);
    await write(screen, 'title', '');
    expect(screen.button('Keep a copy').disabled).toBeTrue();
    await write(screen, 'title', 'Sailmaking by hand');
    await screen.press('Keep a copy');
    expect(kept).toEqual([
      jasmine.objectContaining({
        code: 'SAI 160',
        section: '01',
        term: 'Autumn 2026',
        title: 'Sailmaking by hand',
      }),
    ]);
  });
});
