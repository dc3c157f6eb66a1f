import type { Course, KnownAddresses, Profile } from '@treenail/core';
import type { ExportFormId, Standing } from '../contract/index.ts';

/** A course as a platform lists it. */
export interface ListedCourse {
  remoteId: string;
  code: string;
  section: string;
  term: string;
  title: string;
  owner: string;
  size: number;
  changedAt: Date;
  /** How many things it holds, where the platform says. */
  parts: number | null;
}

/** A package that a platform can make of a course: by a standard, or its own archive. */
export interface ExportForm {
  id: ExportFormId;
  label: string;
  extension: string;
  /** What it leaves out, in words. */
  lacks: readonly string[];
}

export interface ExportOptions {
  form: ExportFormId;
  /** References of the parts wanted; all where there are none. */
  parts: readonly string[] | null;
  /** Files that are only linked from a shared repository are copied in. */
  copyLinked: boolean;
  /** With what belongs to students. */
  personal: boolean;
}

/** A part of a course that can be fetched by itself. */
export interface Part {
  ref: string;
  title: string;
  kind: string;
  bytes: number;
  inside: Part[];
}

/** What an export will cost, as far as the platform says. */
export interface Estimate {
  bytes: number | null;
  items: number | null;
  ahead: number | null;
  seconds: number | null;
}

/** How a platform is. */
export interface About {
  /** Jobs in its queue, everybody's. */
  queue: number;
  /** Seconds that one job takes it, about. */
  each: number;
}

/** A long job at a platform, as it stands. */
export type RemoteState =
  | { state: 'waiting'; ahead: number }
  | { state: 'working'; done: number; total: number; unit: string }
  | { state: 'ready'; size: number | null; expiresAt?: Date | null }
  /** It was there, and was thrown away. */
  | { state: 'gone' }
  | { state: 'failed'; why: string };

export interface LogLine {
  /** As the platform wrote it. */
  line: string;
  /** The same in plain words, if the connector knows the line. */
  words: string | null;
  /** Identifier, in the package sent, of the item that the line speaks of. */
  item: string | null;
}

/** An export that lies at the platform. */
export interface RemoteExport {
  id: string;
  remoteId: string;
  bytes: number | null;
  ready: boolean;
  madeAt: Date | null;
  /** The free words of whoever asked for it. */
  note: string;
}

export interface ShellRequest {
  code: string;
  section: string;
  term: string;
  title: string;
}

/**
 * Platforms that courses can be fetched from. Every call is bounded in time and can be repeated: with the same key the
 * platform is asked once, whatever happened in between.
 */
export interface SourceSide {
  readonly forms: readonly ExportForm[];
  /** Whether finished exports stay in the course and count against its quota. */
  readonly exportsCount: boolean;
  parts(remoteId: string): Promise<Part[]>;
  estimate(remoteId: string, options: ExportOptions): Promise<Estimate>;
  /** Asks for an export and gives its identifier; one already asked for under this key is found again. */
  startExport(remoteId: string, options: ExportOptions, key: string): Promise<string>;
  exportState(exportId: string): Promise<RemoteState>;
  /** Bytes from `offset` on. */
  download(exportId: string, offset: number, signal: AbortSignal): Promise<AsyncIterable<Uint8Array>>;
  /** Removes a finished export; where it is not finished, the platform stops making it, if it can. */
  removeExport(exportId: string): Promise<void>;
  /** Exports of any course that lie there, whoever asked for them. */
  exports(): Promise<RemoteExport[]>;
  /** How pages of a course speak of the platform, so that links back into it are known for what they are. */
  addresses(remoteId: string): Promise<KnownAddresses>;
  /** A file of the repository that courses share, by the address that a page has for it; none where it has none. */
  readonly sharedFile: ((address: string, signal: AbortSignal) => Promise<AsyncIterable<Uint8Array>>) | null;
}

/** A format that a platform takes. */
export interface TakenForm {
  /** Target of the format. */
  target: string;
  /** Its own archive: what the format holds arrives. */
  own: boolean;
  /**
   * What becomes of what stands in a course when more comes: it goes (`instead`), so that all has to come again; it stays
   * and what the new part needs comes with it (`added`); or that is only `named` where it stands there already.
   */
  more: 'instead' | 'added' | 'named';
}

/** Ways into a course that is there, and out of it again. Who is in the course stays, whatever goes. */
export interface CourseThere {
  /** What becomes of what bears the identifier of something that comes. */
  readonly identifiers: 'overwritten' | 'doubled';
  address(courseId: string): string;
  standing(courseId: string): Promise<Standing>;
  /** Takes all that it holds out of it, with what learners did; under the same key once. */
  clear(courseId: string, key: string): Promise<void>;
  /** Takes out what is named, of what learners worked in nothing. What is gone already is no trouble. */
  remove(courseId: string, held: readonly string[]): Promise<void>;
  /** Removes a course that nobody worked in. One that is gone already is no trouble. */
  removeCourse(courseId: string): Promise<void>;
}

/** A tool that a platform has the keys of: what begins with its address is started with them. */
export interface ConnectedTool {
  name: string;
  address: string;
}

/** Platforms that courses can be delivered into. Keys work as in `Giver`. */
export interface DestinationSide {
  /** What it makes of packages by a standard, if it takes any; its own archives it takes as they are. */
  readonly profile: Profile | null;
  /** Formats that it takes; the first is taken where nobody chooses. */
  readonly takes: readonly [TakenForm, ...TakenForm[]];
  createShell(shell: ShellRequest, key: string): Promise<{ id: string; url: string }>;
  /** Begins or finds an upload; `got` is where to go on. */
  startUpload(size: number, key: string): Promise<{ uploadId: string; got: number }>;
  upload(uploadId: string, offset: number, bytes: AsyncIterable<Uint8Array>, signal: AbortSignal): Promise<void>;
  startImport(shellId: string, uploadId: string, key: string): Promise<string>;
  importState(importId: string): Promise<RemoteState>;
  /** Stops an import that is not over, where the platform can; a platform that can't has none. */
  readonly stopImport: ((importId: string) => Promise<void>) | null;
  importLog(importId: string): Promise<LogLine[]>;
  /** `null` where only new shells can be delivered into. */
  readonly there: CourseThere | null;
  /** External tools that are connected there already, and their addresses; `null` where it does not tell. */
  readonly connectedTools: (() => Promise<ConnectedTool[]>) | null;
  /** The course as it stands there now, with the texts of its pages. */
  readBack(shellId: string, signal: AbortSignal): Promise<ReadBack>;
}

/** A course as it stands at a platform. */
export interface ReadBack {
  readonly course: Course;
  /** HTML of pages, by the identifiers of their items. */
  readonly pages: Readonly<Record<string, string>>;
  /** The platform's own names of items, by their identifiers in `course`: needed where things in a course can be taken out. */
  readonly names: Readonly<Record<string, string>>;
}

export interface Connector {
  about(): Promise<About>;
  listCourses(): Promise<ListedCourse[]>;
  readonly source: SourceSide | null;
  readonly destination: DestinationSide | null;
}

export interface ConnectorOptions {
  baseUrl: string;
  credential: string;
}

/** A kind of platform. Added by adding its folder and one line to the list in `platforms/index.ts`. */
export interface PlatformKind {
  id: string;
  label: string;
  /** Reached over the network, by an address and a token that somebody enters. */
  connected: boolean;
  connect(options: ConnectorOptions): Connector;
}
