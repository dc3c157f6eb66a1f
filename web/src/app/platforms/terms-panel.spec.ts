import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Term } from '@treenail/server/contract';
import { TermsPanel } from './terms-panel';

const AUTUMN: Term = {
  name: 'Autumn 2026',
  from: '2026-09-14',
  to: '2026-12-18',
  breaks: [{ name: 'Reading week', from: '2026-10-26', to: '2026-10-30' }],
};

describe('The term calendar', () => {
  let fixture: ComponentFixture<TermsPanel>;
  let http: HttpTestingController;
  let element: HTMLElement;
  const input = (label: string) => {
    const found = element.querySelector<HTMLInputElement>(`[aria-label="${label}"]`);
    if (!found) throw new Error(`no ${label}`);
    return found;
  };
  const type = async (label: string, text: string) => {
    const field = input(label);
    field.value = text;
    field.dispatchEvent(new Event('change'));
    await fixture.whenStable();
  };
  const keep = () => [...element.querySelectorAll('button')].find((b) => b.textContent?.includes('Keep the calendar'));

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    http = TestBed.inject(HttpTestingController);
    fixture = TestBed.createComponent(TermsPanel);
    element = fixture.nativeElement as HTMLElement;
    fixture.detectChanges();
    TestBed.tick();
    http.expectOne('/api/terms').flush([AUTUMN]);
    http.expectOne('/api/naming-rule').flush('{code}_{date}');
    await fixture.whenStable();
  });

  it('shows breaks as they are written, and keeps those that a person adds', async () => {
    expect(input('Breaks of Autumn 2026').value).toBe('Reading week, 2026-10-26 to 2026-10-30');
    expect(keep()).toBeUndefined();
    await type('Breaks of Autumn 2026', 'Reading week, 2026-10-26 to 2026-10-30; Fog, 2026-11-20 to 2026-11-20');
    keep()?.click();
    const asked = http.expectOne('/api/terms');
    expect(asked.request.method).toBe('PUT');
    expect((asked.request.body as Term[])[0]?.breaks).toEqual([
      { name: 'Reading week', from: '2026-10-26', to: '2026-10-30' },
      { name: 'Fog', from: '2026-11-20', to: '2026-11-20' },
    ]);
    asked.flush(asked.request.body as Term[]);
    await fixture.whenStable();
    expect(element.querySelector('[role=status]')?.textContent).toContain('The calendar is kept.');
  });

  it('says how a break is written where it does not understand one, and changes nothing', async () => {
    await type('Breaks of Autumn 2026', 'some time in November');
    expect(element.querySelector('[role=alert]')?.textContent).toContain('A break is written as its name');
    expect(keep()).toBeUndefined();
    await type('Breaks of Autumn 2026', '');
    expect(element.querySelector('[role=alert]')).toBeNull();
    expect(keep()).toBeDefined();
  });
});
