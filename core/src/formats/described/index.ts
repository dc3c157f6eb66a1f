import type { Format } from '../format.ts';
import { fitsTo } from './fits.ts';
import type { Description } from './language.ts';
import { readDescribed } from './read.ts';
import { unpackerOf } from './unpack.ts';

export { Description, RULE_KINDS, TAKEN_AS } from './language.ts';
export { fitsTo } from './fits.ts';
export { EXAMPLE_DESCRIPTIONS, type ExampleDescription } from './examples/index.ts';
export { linesOf, readDescription, type ReadDescription } from './parse.ts';
export { readDescribed, type Described } from './read.ts';
export { Trace, type RuleTrace } from './trace.ts';
export { DESCRIPTION_WORDS, type DescriptionWord } from './words.ts';
export { starter } from './starter.ts';
export { openArchive, tryDescription, type OpenArchive, type TryOut as Trial } from './try-out.ts';

/** A format of its description: read only. */
export function describedFormat(description: Description): Format {
  return {
    id: `described-${description.id}`,
    // What such an archive is called is part of its description.
    label: (version) => version,
    rank: 'described',
    unpacker: unpackerOf(description),
    targets: [],
    detect: async (pkg) => ((await fitsTo(pkg, description)) ? description.version : null),
    async read(pkg) {
      const { course, notes } = await readDescribed(pkg, description);
      return { course, notes };
    },
    plan() {
      throw new RangeError('no target of this format');
    },
  };
}
