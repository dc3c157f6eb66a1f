import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { ClosedDay } from '@treenail/server/contract';
import { ClosedDaysPanel } from './closed-days-panel';

const CALENDAR = [
  'BEGIN:VCALENDAR',
  'BEGIN:VEVENT',
  'DTSTART;VALUE=DATE:20261224',
  'DTEND;VALUE=DATE:20261227',
  'SUMMARY:Midwinter',
  'END:VEVENT',
  'END:VCALENDAR',
].join('\r\n');

describe('Closed days of the house', () => {
  let fixture: ComponentFixture<ClosedDaysPanel>;
  let http: HttpTestingController;
  let element: HTMLElement;
  const words = (role: string) => element.querySelector(`[role=${role}]`)?.textContent ?? '';
  const names = () => [...element.querySelectorAll<HTMLInputElement>('.name input')].map((field) => field.value);
  const button = (text: string) => [...element.querySelectorAll('button')].find((b) => b.textContent?.includes(text));
  /** Resolves once the panel says something of the file. */
  const read = async (text: string, name = 'days.ics') => {
    const field = element.querySelector<HTMLInputElement>('input[type=file]');
    const files = new DataTransfer();
    files.items.add(new File([text], name));
    if (!field) throw new Error('nothing takes a file');
    field.files = files.files;
    field.dispatchEvent(new Event('change'));
    await new Promise<void>((done) => {
      const look = () => (words('status') + words('alert') === '' ? requestAnimationFrame(look) : done());
      look();
    });
    await fixture.whenStable();
  };

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    http = TestBed.inject(HttpTestingController);
    fixture = TestBed.createComponent(ClosedDaysPanel);
    element = fixture.nativeElement as HTMLElement;
    fixture.detectChanges();
    TestBed.tick();
    http.expectOne('/api/closed-days').flush([{ on: '2026-12-25', name: 'Yule' }] satisfies ClosedDay[]);
    await fixture.whenStable();
  });

  it('are read from a calendar beside those that are there, and kept once a person says so', async () => {
    await read(CALENDAR);
    expect(words('status')).toContain('3 days in days.ics, 2 of them new.');
    expect(names()).toEqual(['Midwinter', 'Yule', 'Midwinter']);
    button('Keep the days')?.click();
    const asked = http.expectOne('/api/closed-days');
    expect(asked.request.method).toBe('PUT');
    expect((asked.request.body as ClosedDay[]).map((day) => day.on)).toEqual([
      '2026-12-24',
      '2026-12-25',
      '2026-12-26',
    ]);
    asked.flush(asked.request.body as ClosedDay[]);
    await fixture.whenStable();
    expect(words('status')).toContain('The closed days are kept.');
    expect(button('Keep the days')).toBeUndefined();
  });

  it('say what is wrong with a file that is no calendar, and change nothing', async () => {
    await read('Christmas, 25 December', 'days.txt');
    expect(words('alert')).toContain('days.txt: This is no calendar that can be read');
    expect(names()).toEqual(['Yule']);
    expect(button('Keep the days')).toBeUndefined();
  });

  it('are added and removed one by one', async () => {
    button('Add a day')?.click();
    await fixture.whenStable();
    expect(names()).toEqual(['Yule', 'Closed']);
    element.querySelector<HTMLButtonElement>('[aria-label="Remove Yule"]')?.click();
    await fixture.whenStable();
    expect(names()).toEqual(['Closed']);
  });
});
