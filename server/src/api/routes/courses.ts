import { reportToCsv } from '@treenail/core';
import type { Services } from '../../services/context.ts';
import { coursesAsCsv, coursesAsXlsx } from '../../services/course-list.ts';
import { descriptionOf, keepDescription, listDescriptions } from '../../services/descriptions.ts';
import { costsOf, estimateOf, partsOf, startFetches } from '../../services/fetches.ts';
import { listFilters, removeFilter, saveFilter } from '../../services/filters.ts';
import { namingRule, setNamingRule, setTerms, setZone, terms, zone } from '../../services/settings.ts';
import { listInstances } from '../../services/instances.ts';
import { listOpenJobs, markAllSeen, markSeen } from '../../services/jobs.ts';
import * as moves from '../../services/moves.ts';
import { allCourses, courseById, listCourses, refreshRegister, registerSums } from '../../services/register.ts';
import { listReports, passwordsOf, reportOf } from '../../services/reports.ts';
import { search } from '../../services/search.ts';
import type { Answers } from '../serve.ts';
import * as retries from '../../services/retries.ts';

type Names =
  | 'reports'
  | 'report'
  | 'passwords'
  | 'reportSheet'
  | 'instances'
  | 'courses'
  | 'register'
  | 'course'
  | 'courseSheet'
  | 'refreshCourses'
  | 'search'
  | 'filters'
  | 'saveFilter'
  | 'removeFilter'
  | 'parts'
  | 'estimate'
  | 'costs'
  | 'beginnings'
  | 'fetchCourses'
  | 'jobs'
  | 'seen'
  | 'allSeen'
  | 'callOffJob'
  | 'retryJob'
  | 'terms'
  | 'setTerms'
  | 'zone'
  | 'setZone'
  | 'namingRule'
  | 'setNamingRule'
  | 'descriptions'
  | 'description'
  | 'keepDescription';

/** The register, what is fetched of it, its jobs and reports, and what the house has set. */
export function courseAnswers(services: Services): Answers<Names> {
  return {
    reports: ({ person }) => listReports(person),
    report: ({ person, params: [id] }) => reportOf(person, id),
    passwords: ({ person, params: [id] }) => passwordsOf(person, id),
    reportSheet: async ({ person, params: [id], res }) => {
      const report = await reportOf(person, id);
      res
        .attachment(`${report.packageFile.replace(/\.\w+$/, '')}_transfer-report.csv`)
        .type('text/csv')
        .send(reportToCsv(report));
    },
    instances: () => listInstances(),
    courses: ({ query }) => listCourses(query),
    register: () => registerSums(),
    course: ({ params: [id] }) => courseById(id),
    courseSheet: async ({ params: [format], query, res }) => {
      const ids = query.ids?.split(',').map(Number);
      const courses = (await allCourses()).filter((c) => !ids || ids.includes(c.id));
      res.attachment(`courses_${new Date().toISOString().slice(0, 10)}.${format}`);
      if (format === 'csv') res.type('text/csv').send(coursesAsCsv(courses));
      else res.send(await coursesAsXlsx(courses));
    },
    refreshCourses: () => refreshRegister(2000),
    search: ({ query: { q } }) => search(q),
    filters: ({ person }) => listFilters(person),
    saveFilter: ({ person, body: { name, filter } }) => saveFilter(person, name, filter),
    removeFilter: ({ person, params: [id] }) => removeFilter(person, id),
    parts: ({ params: [id] }) => partsOf(services, id),
    estimate: ({ params: [id], body }) => estimateOf(services, id, body),
    costs: ({ body: { courseIds, options } }) => costsOf(services, courseIds, options),
    beginnings: ({ params: [id] }) => moves.beginningsOf(services, id),
    fetchCourses: ({ person, body }) => startFetches(services, person, body),
    jobs: () => listOpenJobs(),
    seen: ({ params: [id] }) => markSeen(id),
    allSeen: () => markAllSeen(),
    callOffJob: ({ person, params: [id] }) => retries.callOff(person, id),
    retryJob: ({ person, params: [id] }) => retries.retryJob(person, id),
    terms: () => terms(),
    setTerms: ({ person, body }) => setTerms(person, body),
    zone: () => zone(services),
    setZone: ({ person, body }) => setZone(person, body.zone),
    namingRule: () => namingRule(),
    setNamingRule: ({ person, body: { rule } }) => setNamingRule(person, rule),
    descriptions: () => listDescriptions(),
    description: ({ params: [archive] }) => descriptionOf(archive),
    keepDescription: ({ person, body }) => keepDescription(person, body),
  };
}
