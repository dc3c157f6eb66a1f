/** What `file.worker.ts` is where nothing was bundled: threads do not inherit the loader that reads TypeScript. */
import { register } from 'tsx/esm/api';

register();
await import('../inspect/file.worker.ts');
