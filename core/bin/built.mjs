import { readdirSync, statSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** Whether a bundle is there and no older than any of its sources. */
export function isBuilt(bundle, sources) {
  const builtAt = statSync(bundle, { throwIfNoEntry: false })?.mtimeMs;
  if (builtAt === undefined) return false;
  const isOlder = (folder) =>
    readdirSync(folder, { withFileTypes: true }).every((entry) => {
      const path = `${folder}/${entry.name}`;
      // A file that is gone leaves its folder changed.
      if (entry.isDirectory()) return statSync(path).mtimeMs <= builtAt && isOlder(path);
      return /\.spec\.ts$/.test(entry.name) || statSync(path).mtimeMs <= builtAt;
    });
  return isOlder(fileURLToPath(sources).replace(/\/$/, ''));
}
