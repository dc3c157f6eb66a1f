import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import type * as z from 'zod';

/** One JSON document on disk. Written whole and put in place by a rename, so that a kill leaves the old or the new. */
export class JsonStore<S extends z.ZodType> {
  readonly state: z.infer<S>;
  private readonly path: string;

  constructor(path: string, schema: S, empty: () => z.infer<S>) {
    this.path = path;
    mkdirSync(dirname(path), { recursive: true });
    this.state = existsSync(path) ? schema.parse(JSON.parse(readFileSync(path, 'utf8'))) : empty();
  }

  save(): void {
    const next = `${this.path}.next`;
    writeFileSync(next, JSON.stringify(this.state));
    renameSync(next, this.path);
  }
}
