#!/usr/bin/env node
/** The command line, bundled. Where its sources lie beside it and are newer, it is built first. */
import { existsSync } from 'node:fs';

const bundle = new URL('../dist/cli/main.mjs', import.meta.url);
const sources = new URL('../src/', import.meta.url);
if (existsSync(sources)) {
  const { isBuilt } = await import('./built.mjs');
  if (!isBuilt(bundle, sources)) await (await import('./build.mjs')).buildCommand();
}
await import(bundle);
