import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { MatButtonHarness } from '@angular/material/button/testing';
import { MatCheckboxHarness } from '@angular/material/checkbox/testing';
import { MatDialogHarness } from '@angular/material/dialog/testing';
import { MatInputHarness } from '@angular/material/input/testing';
import { provideRouter } from '@angular/router';
import type { CourseSummary, InstanceSummary, RegisterSums } from '@treenail/server/contract';
import { ListHarness } from '../parts/list/list.harness';
import { courseRow } from '../testing/made';
import { pageOf } from '../testing/pages';
import { Screen } from '../testing/screen';
import { of } from 'rxjs';
import { Api } from '../data/api';
import { CoursesPage } from './courses';

const live = { id: 1, name: 'Marrowick Live', platform: 'quernhold', gives: true, fetches: true };
const instances: InstanceSummary[] = [
  { ...live, takes: false, leaving: false, listedAt: '2026-11-24T05:00:00.000Z', trouble: null },
  {
    id: 2,
    name: 'Marrowick New',
    platform: 'tarnhall',
    gives: false,
    fetches: false,
    takes: true,
    leaving: false,
    listedAt: '2026-11-24T05:00:00.000Z',
    trouble: null,
  },
];
const course = (id: number, code: string, title: string, size: number, kept: string | null): CourseSummary =>
  courseRow(id, {
    code,
    title,
    size,
    instance: live,
    newestCopy: kept === null ? null : { id, keptAt: kept, form: 'standard' },
  });

const COURSES = [
  course(1, 'BTB 210', 'Wooden Boat Repair', 27_000_000, '2026-11-12T05:00:00.000Z'),
  course(2, 'EST 120', 'Saltmarsh Ecology', 900_000, '2026-11-01T05:00:00.000Z'),
  course(3, 'NAV 101', 'Coastal Navigation', 250_000, null),
];
const SIZE = { size: 28_150_000 };
const register = (courses: readonly CourseSummary[]): RegisterSums => ({
  courses: courses.length,
  lacks: { 'no copy': courses.filter((c) => c.newestCopy === null).length, 'old copy': 1, 'cut-off': 0 },
  on: courses.length === 0 ? [] : [1],
});
const NONE = { rows: [], total: 0, sums: { size: 0 } };
const isPage = ({ url }: { url: string }) => url === '/api/courses';

describe('The register of courses', () => {
  let fixture: ComponentFixture<CoursesPage>;
  let http: HttpTestingController;
  let element: HTMLElement;
  let list: ListHarness;

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([])] });
    http = TestBed.inject(HttpTestingController);
    fixture = TestBed.createComponent(CoursesPage);
    element = fixture.nativeElement as HTMLElement;
    fixture.detectChanges();
    TestBed.tick();
    answer();
    http.expectOne('/api/register').flush(register(COURSES));
    http.expectOne('/api/instances').flush(instances);
    http.expectOne('/api/filters').flush([]);
    await new Screen(fixture).drawn();
    list = await TestbedHarnessEnvironment.loader(fixture).getHarness(ListHarness);
  });

  /** Answers every page that is asked for meanwhile; gives what was asked. */
  const answer = () =>
    http.match(isPage).map((asked) => {
      const of = (name: string) => asked.request.params.get(name) ?? '';
      const rows = of('lacks') === 'no copy' ? COURSES.filter((c) => c.newestCopy === null) : COURSES;
      const by = { course: (c: CourseSummary) => c.code, size: (c: CourseSummary) => c.size };
      asked.flush(pageOf(rows, { words: of('words'), sort: of('sort') }, SIZE, by));
      return asked.request.urlWithParams;
    });
  /** Waits for the page that comes of what was just done. */
  const shown = async () => {
    const screen = new Screen(fixture);
    await screen.until(() => answer().length > 0);
    await screen.drawn();
  };
  const codes = () => list.column('Course');
  const filter = async (words: string) => {
    await list.filter(words);
    await shown();
  };

  const press = (text: string) => {
    const found = [...element.querySelectorAll<HTMLElement>('button')].find((b) => b.textContent?.includes(text));
    if (!found) throw new Error(`no button ${text}`);
    found.click();
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
    expect(await codes()).toEqual(['EST 120-01']);
    await filter('');
    const bySize = async () => {
      await list.sortBy('Size');
      await shown();
    };
    await bySize();
    expect(await codes()).toEqual(['BTB 210-01', 'EST 120-01', 'NAV 101-01']);
    await bySize();
    expect(await codes()).toEqual(['NAV 101-01', 'EST 120-01', 'BTB 210-01']);
  });

  it('starts a move with one request, however often the button is pressed', async () => {
    const loader = TestbedHarnessEnvironment.documentRootLoader(fixture);
    press('Move…');
    // What the dialog asks keeps the page from being stable until it is answered.
    await new Promise<void>((done) => setTimeout(done));
    TestBed.tick();
    http.expectOne('/api/courses/1/beginnings').flush({ forms: [], copies: [], open: [] });
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

  it('narrows to what is lacking, and saves that under a name', async () => {
    press('no kept copy');
    await shown();
    expect(await codes()).toEqual(['NAV 101-01']);
    press('Save this filter');
    await fixture.whenStable();
    const name = element.querySelector<HTMLInputElement>('.name input');
    if (!name) throw new Error('no field for a name');
    name.value = 'Unprotected';
    name.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    const saved = http.expectOne('/api/filters');
    expect(saved.request.body).toEqual({
      name: 'Unprotected',
      filter: { words: '', instance: null, lacks: 'no copy' },
    });
    saved.flush([{ id: 1, name: 'Unprotected', filter: { words: '', instance: null, lacks: 'no copy' } }]);
    await fixture.whenStable();
    press('no kept copy');
    await shown();
    expect((await codes()).length).toBe(3);
    press('Unprotected');
    await shown();
    expect(await codes()).toEqual(['NAV 101-01']);
  });

  it('fetches many courses with one request, and asks for a reason before personal data', async () => {
    const loader = TestbedHarnessEnvironment.documentRootLoader(fixture);
    await list.tick();
    // It is asked for anew with everything that is ticked, and has a spec of its own.
    spyOn(TestBed.inject(Api), 'costs').and.returnValue(of([]));
    press('Fetch 3 courses…');
    // What the dialog asks keeps the page from being stable until it is answered.
    await new Promise<void>((done) => setTimeout(done));
    TestBed.tick();
    http.expectOne('/api/naming-rule').flush('{code}_{date}');
    const dialog = await loader.getHarness(MatDialogHarness);
    const start = await loader.getHarness(MatButtonHarness.with({ text: 'Fetch 3 courses' }));
    const personal = await loader.getHarness(MatCheckboxHarness.with({ label: /personal data/ }));
    await personal.check();
    expect(await start.isDisabled()).toBeTrue();
    await (
      await loader.getHarness(MatInputHarness.with({ ancestor: 'mat-dialog-container' }))
    ).setValue('an appeal is open');
    await start.click();
    const asked = http.expectOne('/api/fetches');
    expect(asked.request.body).toEqual({
      courseIds: [1, 2, 3],
      options: {
        form: 'archive',
        parts: null,
        copyLinked: true,
        personal: true,
        reason: 'an appeal is open',
        removeAfter: true,
      },
    });
    asked.flush([]);
    await dialog.close().catch(() => undefined);
  });
});

describe('The register of courses, before there is anything in it', () => {
  let http: HttpTestingController;
  let screen: Screen<CoursesPage>;

  beforeEach(() => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([])] });
    http = TestBed.inject(HttpTestingController);
    screen = new Screen(TestBed.createComponent(CoursesPage));
    screen.fixture.detectChanges();
    TestBed.tick();
    http.expectOne('/api/filters').flush([]);
  });
  const counts = () => [
    screen.texts('mat-chip-option').length,
    screen.words('.rest [role=status]'),
    screen.words('tfoot'),
  ];

  it('counts nothing that is not known, and says why', async () => {
    http.expectOne(isPage).error(new ProgressEvent('error'));
    http.expectOne('/api/register').error(new ProgressEvent('error'));
    http.expectOne('/api/instances').flush(instances);
    await screen.settle();
    expect(screen.words('h1')).toBe('Courses');
    expect(counts()).toEqual([0, '', '']);
    expect(screen.words('[role=alert] .error')).toContain('Treenail does not answer');
    expect(screen.words('tbody')).toBe('');
  });

  it('says that courses are being listed', async () => {
    http.expectOne(isPage).flush(NONE);
    http.expectOne('/api/register').flush(register([]));
    http.expectOne('/api/instances').flush(instances.map((i) => ({ ...i, listedAt: null })));
    await screen.settle();
    expect(screen.words('.bare')).toBe('The courses of the connected instances are being listed.');
  });

  it('leads to the platforms where none is connected', async () => {
    http.expectOne(isPage).flush(NONE);
    http.expectOne('/api/register').flush(register([]));
    http.expectOne('/api/instances').flush([]);
    await screen.settle();
    expect(screen.words('.bare')).toContain('No instance is connected yet');
    expect(screen.host.querySelector('.bare a')?.getAttribute('href')).toBe('/platforms');
  });
});
