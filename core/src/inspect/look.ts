import type { ByteSource, Package } from '../container/index.ts';
import { openCourse, readCourse, type Format, type OpenCourseOptions } from '../formats/index.ts';
import type { Course, Note } from '../model/index.ts';
import { questionNotes } from './questions.ts';
import { survey, type FileWorker, type Survey, type SurveyOptions } from './survey.ts';

/** A package whose definitions are read: all that is known before its files are. */
export interface ReadPackage {
  pkg: Package;
  course: Course;
  /** What was met on the way, and what is wrong with questions. */
  notes: readonly Note[];
}

/** A package that was looked into: read, surveyed, and its findings told. */
export interface Looked extends Survey {
  pkg: Package;
}

export interface LookOptions extends Omit<SurveyOptions, 'workers' | 'onFindings'> {
  /** As that of a survey. */
  onFindings?: (known: Looked) => void;
  /** Others that read files too, begun for the course that was read. */
  workersFor?: (course: Course) => { workers: readonly FileWorker[]; close: () => Promise<void> };
}

/** Opens what the bytes are and reads its definitions. `described` are formats that are known by a description. */
export async function openAndRead(source: ByteSource, options: OpenCourseOptions): Promise<ReadPackage> {
  return readPackage(await openCourse(source, options), options.described);
}

/** Reads the definitions of a package. */
export async function readPackage(pkg: Package, described: readonly Format[] = []): Promise<ReadPackage> {
  const { course, notes } = await readCourse(pkg, described);
  return { pkg, course, notes: [...notes, ...questionNotes(course)] };
}

/**
 * Reads the files of a package whose definitions are read, and finds what is to be found in it. Its notes are those of
 * reading, and after them those of the files.
 */
export async function lookInto({ pkg, course, notes }: ReadPackage, options: LookOptions): Promise<Looked> {
  const { workersFor, onFindings, ...rest } = options;
  const whole = (surveyed: Survey): Looked => ({ ...surveyed, pkg, notes: [...notes, ...surveyed.notes] });
  const { workers, close } = workersFor?.(course) ?? { workers: [], close: async () => undefined };
  const telling = onFindings ? { onFindings: (known: Survey) => onFindings(whole(known)) } : {};
  return whole(await survey(pkg, course, { ...rest, ...telling, workers }).finally(close));
}
