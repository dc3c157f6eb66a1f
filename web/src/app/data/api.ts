import { HttpClient, HttpErrorResponse } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import {
  BeforeAfterAnswer,
  BeginningsAnswer,
  CheckAnswer,
  CopySummary,
  CostsAnswer,
  CourseSummary,
  DeliverAnswer,
  DescriptionAnswer,
  DescriptionSummary,
  EstimateAnswer,
  FitAnswer,
  Health,
  HouseRules,
  JobSummary,
  PartsAnswer,
  PlatformKindSummary,
  PlatformSummary,
  PlatformTest,
  ProfileAnswer,
  Term,
  Found,
  InstanceSummary,
  LookAnswer,
  MailChoice,
  MoveSummary,
  MovesAnswer,
  type MovesAsked,
  PreviewAnswer,
  ProblemDocument,
  RelationsAnswer,
  RemoteExportSummary,
  ReportSummary,
  RuleSummary,
  RuleUse,
  SavedFilterSummary,
  TextSearchAnswer,
  ThereAnswer,
  TidyAnswer,
  TransferReport,
  type CourseFilter,
  type DeliverRequest,
  type FetchOptions,
  type FetchRequest,
  type NewDecision,
  type NewDescription,
  type NewMove,
  type NewPlatform,
  type PlatformChange,
  type ProfileChange,
} from '@treenail/server/contract';
import { Refusal, type Rule } from '@treenail/core';
import { map, type Observable } from 'rxjs';
import * as z from 'zod';

/** The HTTP interface. Every answer is validated; what comes out has plain types. */
@Injectable({ providedIn: 'root' })
export class Api {
  private readonly http = inject(HttpClient);

  readonly courses = () => this.get('/api/courses', z.array(CourseSummary));
  readonly instances = () => this.get('/api/instances', z.array(InstanceSummary));
  readonly moves = ({ most, away }: MovesAsked) => this.get(`/api/moves?most=${most}&away=${away}`, MovesAnswer);
  readonly move = (id: number) => this.get(`/api/moves/${id}`, MoveSummary);
  readonly look = (id: number) => this.get(`/api/moves/${id}/look`, LookAnswer);
  readonly fit = (id: number) => this.get(`/api/moves/${id}/fit`, FitAnswer);
  readonly log = (id: number) => this.get(`/api/moves/${id}/log`, DeliverAnswer);
  readonly check = (id: number) => this.get(`/api/moves/${id}/check`, CheckAnswer);
  readonly copy = (id: number) => this.get(`/api/copies/${id}`, CopySummary);
  readonly copies = () => this.get('/api/copies', z.array(CopySummary));
  readonly reports = () => this.get('/api/reports', z.array(ReportSummary));
  readonly report = (id: number) => this.get(`/api/reports/${id}`, TransferReport);
  readonly passwords = (id: number) =>
    this.post(`/api/reports/${id}/passwords`, {}, z.array(z.object({ title: z.string(), password: z.string() })));
  readonly preview = (id: number, of: { item: string } | { path: string }, view: Record<string, string> = {}) =>
    this.get(`/api/moves/${id}/preview`, PreviewAnswer, { ...of, ...view });
  readonly fileAddress = (id: number, path: string, mended: boolean) =>
    `/api/moves/${id}/file?${new URLSearchParams({ path, ...(mended ? { mended: 'yes' } : {}) })}`;
  readonly relations = (id: number) => this.get(`/api/moves/${id}/relations`, RelationsAnswer);
  readonly searchTexts = (id: number, q: string) => this.get(`/api/moves/${id}/texts`, TextSearchAnswer, { q });
  readonly tidy = (id: number) => this.get(`/api/moves/${id}/tidy`, TidyAnswer);
  readonly decide = (id: number, decision: NewDecision) =>
    this.post(`/api/moves/${id}/decisions`, decision, TidyAnswer);
  readonly undo = (id: number, decision: string) =>
    this.http.delete<unknown>(`/api/moves/${id}/decisions/${decision}`).pipe(map((answer) => TidyAnswer.parse(answer)));
  readonly leaveOut = (id: number, leftOut: readonly string[]) =>
    this.put(`/api/moves/${id}/selection`, { leftOut }, TidyAnswer);
  readonly beforeAfter = (id: number, asked: { key: string; mend: string; params: Record<string, string> }) =>
    this.post(`/api/moves/${id}/before-after`, asked, BeforeAfterAnswer);
  readonly give = (id: number, file: File) =>
    this.http
      .post(`/api/moves/${id}/given`, file, {
        params: { name: file.name },
        // Whatever the file is, the server takes its bytes as they are.
        headers: { 'content-type': 'application/octet-stream' },
      })
      .pipe(map((answer) => z.object({ given: z.string() }).parse(answer).given));
  readonly askOutside = (id: number) => this.post(`/api/moves/${id}/ask-outside`, {}, JobSummary);
  readonly mendRules = () => this.get('/api/mend-rules', z.array(RuleSummary));
  readonly saveRule = (rule: Rule) => this.post('/api/mend-rules', rule, z.array(RuleSummary));
  readonly removeRule = (id: number) =>
    this.http.delete<unknown>(`/api/mend-rules/${id}`).pipe(map((answer) => z.array(RuleSummary).parse(answer)));
  readonly usesOfRule = (id: number) => this.get(`/api/mend-rules/${id}/uses`, z.array(RuleUse));
  readonly applyRule = (id: number, moveIds: readonly number[]) =>
    this.http.post(`/api/mend-rules/${id}/apply`, { moveIds });
  readonly houseRules = () => this.get('/api/house-rules', HouseRules);
  readonly setHouseRules = (rules: HouseRules) => this.put('/api/house-rules', rules, HouseRules);
  readonly play = (copy: number, item: string) =>
    this.post(`/api/copies/${copy}/play`, { item }, z.object({ address: z.url() })).pipe(map(({ address }) => address));
  readonly search = (q: string) => this.get('/api/search', z.array(Found), { q });
  readonly startMove = (move: NewMove) => this.post('/api/moves', move, MoveSummary);
  readonly accept = (id: number) => this.post(`/api/moves/${id}/accept`, {}, MoveSummary);
  readonly carryAs = (id: number, target: string) => this.put(`/api/moves/${id}/carried-as`, { target }, MoveSummary);
  readonly deliver = (id: number, shell: DeliverRequest) => this.post(`/api/moves/${id}/deliver`, shell, MoveSummary);
  readonly retry = (id: number) => this.post(`/api/moves/${id}/retry`, {}, MoveSummary);
  readonly fetchCourses = (asked: FetchRequest) => this.post('/api/fetches', asked, z.array(JobSummary));
  readonly filters = () => this.get('/api/filters', z.array(SavedFilterSummary));
  readonly saveFilter = (name: string, filter: CourseFilter) =>
    this.post('/api/filters', { name, filter }, z.array(SavedFilterSummary));
  readonly removeFilter = (id: number) =>
    this.http.delete<unknown>(`/api/filters/${id}`).pipe(map((answer) => z.array(SavedFilterSummary).parse(answer)));
  readonly parts = (courseId: number) => this.get(`/api/courses/${courseId}/parts`, PartsAnswer);
  readonly estimate = (courseId: number, options: FetchOptions) =>
    this.post(`/api/courses/${courseId}/estimate`, options, EstimateAnswer);
  readonly retryJob = (jobId: number) => this.http.post(`/api/jobs/${jobId}/retry`, {});
  readonly platforms = () => this.get('/api/platforms', z.array(PlatformSummary));
  readonly platformKinds = () => this.get('/api/platform-kinds', z.array(PlatformKindSummary));
  readonly testPlatform = (asked: NewPlatform) => this.post('/api/platforms/test', asked, PlatformTest);
  readonly addPlatform = (asked: NewPlatform) => this.post('/api/platforms', asked, z.object({ id: z.number() }));
  readonly changePlatform = (id: number, change: PlatformChange) => this.http.put(`/api/platforms/${id}`, change);
  readonly checkPlatform = (id: number) => this.post(`/api/platforms/${id}/check`, {}, Health);
  readonly profile = (id: number) => this.get(`/api/platforms/${id}/profile`, ProfileAnswer);
  readonly changeProfile = (id: number, change: ProfileChange) =>
    this.put(`/api/platforms/${id}/profile`, change, ProfileAnswer);
  readonly terms = () => this.get('/api/terms', z.array(Term));
  readonly setTerms = (terms: readonly Term[]) => this.put('/api/terms', terms, z.array(Term));
  readonly mailChoice = () => this.get('/api/mail-choice', MailChoice);
  readonly setMailChoice = (choice: MailChoice) => this.put('/api/mail-choice', choice, MailChoice);
  readonly descriptions = () => this.get('/api/descriptions', z.array(DescriptionSummary));
  readonly description = (archive: string) => this.get(`/api/descriptions/${archive}`, DescriptionAnswer);
  readonly keepDescription = (asked: NewDescription) => this.post('/api/descriptions', asked, DescriptionAnswer);
  readonly namingRule = () => this.get('/api/naming-rule', z.string());
  readonly setNamingRule = (rule: string) => this.put('/api/naming-rule', { rule }, z.string());
  readonly refreshCourses = () => this.http.post('/api/courses/refresh', {});
  readonly beginnings = (courseId: number) => this.get(`/api/courses/${courseId}/beginnings`, BeginningsAnswer);
  readonly costs = (asked: FetchRequest) => this.post('/api/courses/costs', asked, CostsAnswer);
  readonly reopenFit = (id: number) => this.post(`/api/moves/${id}/reopen`, {}, MoveSummary);
  readonly callOffMove = (id: number) => this.post(`/api/moves/${id}/call-off`, {}, MoveSummary);
  readonly putAway = (id: number) => this.post(`/api/moves/${id}/put-away`, {}, MoveSummary);
  readonly takeOut = (id: number) => this.post(`/api/moves/${id}/take-out`, {}, MoveSummary);
  readonly there = (id: number) => this.get(`/api/moves/${id}/there`, ThereAnswer);
  readonly removeCopy = (id: number, reason: string) =>
    this.post(`/api/copies/${id}/remove`, { reason }, z.array(CopySummary));
  readonly callOffJob = (jobId: number) => this.http.post(`/api/jobs/${jobId}/call-off`, {});
  readonly allSeen = () => this.http.post('/api/jobs/seen', {});
  readonly retryAll = (platform: number) =>
    this.post(`/api/platforms/${platform}/retry-all`, {}, z.object({ jobs: z.number() }));
  readonly exportsAt = (platform: number) =>
    this.get(`/api/platforms/${platform}/exports`, z.array(RemoteExportSummary));
  readonly clearExports = (platform: number, exports: readonly string[]) =>
    this.post(`/api/platforms/${platform}/exports/clear`, { exports }, z.array(RemoteExportSummary));
  readonly seen = (jobId: number) => this.http.post(`/api/jobs/${jobId}/seen`, {});

  private get<S extends z.ZodType>(
    path: string,
    schema: S,
    params: Record<string, string> = {},
  ): Observable<z.infer<S>> {
    return this.http.get<unknown>(path, { params }).pipe(map((answer) => schema.parse(answer)));
  }

  private put<S extends z.ZodType>(path: string, body: unknown, schema: S): Observable<z.infer<S>> {
    return this.http.put<unknown>(path, body).pipe(map((answer) => schema.parse(answer)));
  }

  private post<S extends z.ZodType>(path: string, body: unknown, schema: S): Observable<z.infer<S>> {
    return this.http.post<unknown>(path, body).pipe(map((answer) => schema.parse(answer)));
  }
}

/** What a person is told when a request fails. */
export function wordsOf(error: unknown): string {
  if (error instanceof Refusal) return `${error.problem.message} ${error.problem.action}`;
  if (error instanceof HttpErrorResponse) {
    const problem = ProblemDocument.safeParse(error.error);
    if (problem.success) return `${problem.data.detail} ${problem.data.action}`;
    if (error.status === 0) return 'Treenail does not answer. Look whether it is running, then try again.';
  }
  return 'Something went wrong. Reload the page; if it happens again, tell whoever runs Treenail.';
}
