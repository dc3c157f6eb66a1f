import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { MatButtonHarness } from '@angular/material/button/testing';
import { MatDialogHarness } from '@angular/material/dialog/testing';
import { provideRouter } from '@angular/router';
import type { CourseSummary, InstanceSummary } from '@treenail/server/contract';
import { CoursesPage } from './courses';

const live = { id: 1, name: 'Marrowick Live', platform: 'quernhold', gives: true };
const instances: InstanceSummary[] = [
  { ...live, takes: false, listedAt: '2026-11-24T05:00:00.000Z', trouble: null },
  {
    id: 2,
    name: 'Marrowick New',
    platform: 'tarnhall',
    gives: false,
    takes: true,
    listedAt: '2026-11-24T05:00:00.000Z',
    trouble: null,
  },
];
const course = (id: number, code: string, title: string, size: number, kept: string | null): CourseSummary => ({
  id,
  instance: live,
  code,
  section: '01',
  term: 'Autumn 2026',
  title,
  owner: 'x@marrowick.example',
  size,
  changedAt: '2026-11-10T05:00:00.000Z',
  newestCopy: kept === null ? null : { id, keptAt: kept },
  move: null,
});

describe('The register of courses', () => {
  let fixture: ComponentFixture<CoursesPage>;
  let http: HttpTestingController;
  let element: HTMLElement;

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([])] });
    http = TestBed.inject(HttpTestingController);
    fixture = TestBed.createComponent(CoursesPage);
    element = fixture.nativeElement as HTMLElement;
    fixture.detectChanges();
    TestBed.tick();
    http
      .expectOne('/api/courses')
      .flush([
        course(1, 'BTB 210', 'Wooden Boat Repair', 27_000_000, '2026-11-12T05:00:00.000Z'),
        course(2, 'EST 120', 'Saltmarsh Ecology', 900_000, '2026-11-01T05:00:00.000Z'),
        course(3, 'NAV 101', 'Coastal Navigation', 250_000, null),
      ]);
    http.expectOne('/api/instances').flush(instances);
    await fixture.whenStable();
  });

  const codes = () => [...element.querySelectorAll('tbody tr')].map((tr) => tr.querySelector('b')?.textContent);
  const filter = async (words: string) => {
    const input = element.querySelector<HTMLInputElement>('.filters input');
    if (!input) throw new Error('no filter');
    input.value = words;
    input.dispatchEvent(new Event('input'));
    await fixture.whenStable();
  };

  it('begins with the number that matters', () => {
    expect(element.querySelector('h1')?.textContent?.trim()).toBe('3 courses on 2 instances, 1 with no kept copy');
  });

  it('marks a copy that is older than the course, and a course without one', () => {
    const rows = [...element.querySelectorAll('tbody tr')].map((tr) => tr.querySelector('.tag')?.textContent ?? '');
    expect(rows).toEqual(['', 'older than the course', 'none']);
  });

  it('filters by words in any order and sorts by a column', async () => {
    await filter('ecology est');
    expect(codes()).toEqual(['EST 120-01']);
    await filter('');
    const size = [...element.querySelectorAll<HTMLButtonElement>('th button')].find((b) =>
      b.textContent?.includes('Size'),
    );
    size?.click();
    await fixture.whenStable();
    expect(codes()).toEqual(['BTB 210-01', 'EST 120-01', 'NAV 101-01']);
    size?.click();
    await fixture.whenStable();
    expect(codes()).toEqual(['NAV 101-01', 'EST 120-01', 'BTB 210-01']);
  });

  it('starts a move with one request, however often the button is pressed', async () => {
    const loader = TestbedHarnessEnvironment.documentRootLoader(fixture);
    await (await loader.getAllHarnesses(MatButtonHarness.with({ text: 'Move…' })))[0]?.click();
    const dialog = await loader.getHarness(MatDialogHarness);
    expect(await dialog.getTitleText()).toBe('Move BTB 210-01 Wooden Boat Repair');
    const start = await loader.getHarness(MatButtonHarness.with({ text: 'Start by fetching' }));
    await start.click();
    expect(await start.isDisabled()).toBeTrue();
    const asked = http.expectOne('/api/moves');
    expect(asked.request.body).toEqual({ courseId: 1, destinationId: 2 });
    asked.flush(
      { detail: 'No.', action: 'Try again.', type: '', title: '', status: 422, code: 'x' },
      { status: 422, statusText: 'Unprocessable' },
    );
    await fixture.whenStable();
    expect(await dialog.getContentText()).toContain('No. Try again.');
    await dialog.close();
  });
});
