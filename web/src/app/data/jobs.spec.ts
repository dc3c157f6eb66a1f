import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { JobSummary, Person } from '@treenail/server/contract';
import { of, throwError, type Observable } from 'rxjs';
import { job } from '../testing/made';
import { Api } from './api';
import { JobsService } from './jobs';
import { SessionService } from './session';

/** A line to a server that says what the spec has it say. */
class Line extends EventTarget {
  static open: Line[] = [];
  onerror: (() => void) | null = null;
  readonly url: string;
  closed = false;
  constructor(url: string) {
    super();
    this.url = url;
    Line.open.push(this);
  }
  close(): void {
    this.closed = true;
  }
  says(type: string, what: unknown): void {
    this.dispatchEvent(new MessageEvent(type, { data: JSON.stringify(what) }));
  }
  static get last(): Line {
    const line = Line.open.at(-1);
    if (!line) throw new Error('no line');
    return line;
  }
}

describe('What is told of jobs', () => {
  const person = signal<Pick<Person, 'role'> | null>(null);
  const real = window.EventSource;
  let service: JobsService;
  let changed: string[];
  let seen: Observable<unknown>;
  const states = () => service.jobs().map((j) => `${j.id} ${j.state}`);
  const signIn = (role: Person['role'] | null) => {
    person.set(role === null ? null : { role });
    TestBed.tick();
  };

  beforeEach(() => {
    Line.open = [];
    changed = [];
    seen = of(null);
    person.set(null);
    window.EventSource = Line as unknown as typeof EventSource;
    jasmine.clock().install().mockDate(new Date('2026-11-01T10:00:00Z'));
    TestBed.configureTestingModule({
      providers: [
        { provide: Api, useValue: { seen: () => seen } },
        { provide: SessionService, useValue: { person } },
      ],
    });
    service = TestBed.inject(JobsService);
    service.changed$.subscribe((j: JobSummary) => changed.push(`${j.id} ${j.state}`));
    TestBed.tick();
  });
  afterEach(() => {
    signIn(null);
    jasmine.clock().uninstall();
    window.EventSource = real;
  });

  it('is listened to for an administrator only, and no longer than one is signed in', () => {
    signIn('instructor');
    expect(Line.open.length).toBe(0);
    signIn('administrator');
    expect(Line.last.url).toBe('/api/events');
    Line.last.says('jobs', [job(1, 'running')]);
    signIn(null);
    expect(Line.last.closed).toBeTrue();
    expect(states()).toEqual([]);
  });

  it('begins with all that is open, and goes on with each that changes', () => {
    signIn('administrator');
    Line.last.says('jobs', [job(2, 'waiting'), job(1, 'running')]);
    Line.last.says('job', job(1, 'done'));
    expect(states()).toEqual(['1 done', '2 waiting']);
    expect(changed).toEqual(['2 waiting', '1 running', '1 done']);
  });

  it('leaves out what was seen, and has it back when that could not be told', () => {
    signIn('administrator');
    Line.last.says('jobs', [job(1, 'done'), job(2, 'failed')]);
    service.markSeen(job(1, 'done'));
    expect(states()).toEqual(['2 failed']);
    seen = throwError(() => new Error('no'));
    service.markSeen(job(2, 'failed'));
    expect(states()).toEqual(['2 failed']);
  });

  it('says since when nothing was heard, asks again, and has everything anew', () => {
    signIn('administrator');
    Line.last.says('jobs', [job(1, 'running'), job(2, 'waiting')]);
    expect(service.lost()).toBeNull();
    jasmine.clock().tick(5000);
    Line.last.onerror?.();
    expect(service.lost()).toEqual(new Date('2026-11-01T10:00:00Z'));
    expect(Line.last.closed).toBeTrue();
    expect(states()).toEqual(['1 running', '2 waiting']);
    jasmine.clock().tick(3000);
    expect(Line.open.length).toBe(2);
    // In vain once more: what was heard last stays what was heard last.
    Line.last.onerror?.();
    jasmine.clock().tick(3000);
    expect(service.lost()).toEqual(new Date('2026-11-01T10:00:00Z'));
    Line.last.says('jobs', [job(2, 'done')]);
    expect(service.lost()).toBeNull();
    expect(states()).toEqual(['2 done']);
    expect(changed.at(-1)).toBe('2 done');
  });

  it('takes a line for dead that is silent for longer than the server ever is', () => {
    signIn('administrator');
    Line.last.says('jobs', []);
    jasmine.clock().tick(30_000);
    Line.last.says('quiet', { at: '2026-11-01T10:00:30Z' });
    jasmine.clock().tick(39_000);
    expect(service.lost()).toBeNull();
    jasmine.clock().tick(1000);
    expect(service.lost()).toEqual(new Date('2026-11-01T10:00:30Z'));
    jasmine.clock().tick(3000);
    expect(Line.open.map((line) => line.closed)).toEqual([true, false]);
  });
});
