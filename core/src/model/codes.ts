/**
 * Every code that Treenail gives to what it refuses, or notes. A code is stable; the sentence that a person is told, and
 * what to do, stand where it is thrown, for they name what they speak of. `docs/problems.md` is this list.
 */

interface CodeDefinition {
  /** When it is given. */
  readonly when: string;
  /** HTTP status of the answer (RFC 9110, 15); 422 where not said. */
  readonly status?: number;
}

/** What is refused of files and archives. */
const OF_FILES = {
  'not-a-zip': { when: 'the file is no zip' },
  'zip-truncated': { when: 'it begins as one, but its end is missing or damaged' },
  'zip-encrypted': { when: 'an entry is encrypted' },
  'zip-method': { when: 'an entry is compressed by another method than deflate' },
  'zip-bomb': { when: 'an entry, or all together, would unpack beyond the limits' },
  'zip-overlap': { when: 'two entries claim the same bytes' },
  'zip-too-many': { when: 'more files than the limit' },
  'entry-leaves-package': { when: 'dot-dot, an absolute path, a drive letter, forward or backward slashes' },
  'entry-link': { when: 'an entry is a symbolic link (in a tar: left out, with a note)' },
  'entry-damaged': { when: 'an entry is cut off, can’t be inflated, or does not match its size or checksum' },
  'name-deceptive': { when: 'a file name with control or direction-override characters' },
  'name-too-long': { when: 'a file name beyond the limit' },
  'no-manifest': {
    when: 'no `imsmanifest.xml`, and no page either (where there are pages, this is a note: the outline was made from the folders)',
  },
  'not-a-cartridge': { when: 'the manifest says it is a cartridge, but not of a version that is known' },
  'not-a-package': { when: 'the manifest is of no standard that is read' },
  'tar-damaged': { when: 'a tar that is damaged or cut off' },
  'tar-too-long': { when: 'a tar beyond what can be held in memory' },
  'nothing-to-write': { when: 'a package of questions is asked for of a course that has none' },
  'xml-malformed': { when: 'not well-formed XML, or an entity that nobody declared; with the line' },
  'xml-entities': { when: 'a DOCTYPE that declares entities: none is ever expanded, no file or address read' },
  'xml-depth': { when: 'XML beyond the limit of depth' },
  'text-too-long': { when: 'a text beyond the limit' },
  'unknown-target': { when: 'a format that is not written' },
  usage: { when: 'the command line is called otherwise than it can be' },
  'unknown-command': { when: 'the command line is called otherwise than it can be' },
  'no-such-file': { when: 'a file to read that is not there, or one to write that is' },
  'file-there': { when: 'a file to read that is not there, or one to write that is' },
  'limit-unknown': { when: 'a limit is set that there is none of' },
  'naming-rule': { when: 'a naming rule with an unknown field, or none' },
  'archive-damaged': { when: 'an archive of a platform that is not what it says, or ends too soon' },
  'yaml-malformed': { when: 'a document in an archive that is no YAML, or uses aliases' },
  'archive-document': { when: 'a document of a described archive that is not what its name says' },
  'description-yaml': {
    when: 'a description that is no YAML, or has words or values that the language has not: with the line',
  },
  'description-malformed': {
    when: 'a description that is no YAML, or has words or values that the language has not: with the line',
  },
  'description-name': {
    when: 'a description names records or a rule that are not there, or a path that can’t be followed',
  },
  'description-path': {
    when: 'a description names records or a rule that are not there, or a path that can’t be followed',
  },
  'description-course': { when: 'no record of the course is found by the description, or its records never end' },
  'description-endless': { when: 'no record of the course is found by the description, or its records never end' },
  unexpected: { when: 'something went wrong inside Treenail', status: 500 },
} satisfies Record<string, CodeDefinition>;

/** What was odd in a file, and read all the same. */
const NOTED = {
  'file-missing': { when: 'the manifest names a file that is not there (asked for by itself, this is a refusal)' },
  'resource-missing': { when: 'an outline entry without a resource' },
  'resource-repeated': { when: 'two resources of one identifier: the first is read' },
  'attachment-missing': { when: 'an attachment that is not there' },
  'link-broken': { when: 'a page or text refers to a file that is not there' },
  'links-broken': { when: 'more than 500 links lead to what is not in the package: the rest is counted' },
  'text-too-much': { when: 'a text has more addresses, or more to be found, than the limit' },
  'text-too-deep': { when: 'elements of a text nest more than 1,000 deep: what is below was not read' },
  'findings-too-many': { when: 'a course has more findings than the limit' },
  'foreign-part': { when: 'a resource of a kind that is not read: carried as it is' },
  protected: { when: 'a cartridge, or parts of it, ask for an authorization: shown, and never got around' },
  'several-outlines': { when: 'more than one organization: the first is the course, the others follow as folders' },
  'manifest-circular': { when: 'a sub-manifest that is part of itself: read once' },
  'question-missing': { when: 'a test asks for a question that is not there' },
  'quiz-empty': { when: 'a quiz without questions, of its own or drawn' },
  'quiz-from-bank': { when: 'a quiz all of whose questions are drawn from banks' },
  'quiz-branches': { when: 'a quiz that leads on by what was answered: its questions are read in their order' },
  'bank-unused': { when: 'a bank that no quiz draws from' },
  'bank-missing': { when: 'a quiz draws from a bank that is not there' },
  'bank-too-small': { when: 'a quiz draws more questions than the bank has' },
  archive: { when: 'the package is a platform’s own archive' },
  'foreign-record': { when: 'a record of such an archive that is not understood' },
  'record-missing': { when: 'a record of a described archive points at what is not there' },
  'description-part': { when: 'a question has parts that its type has no place for: they are left out' },
  'description-setting': {
    when: 'a value that can not stand for the setting that a description gives it to: not set, told once for each setting',
  },
  'description-kind': { when: 'a record whose kind the description has no word for: left out' },
  'wrapped-folder': { when: 'everything lies in one more folder' },
  'wrapped-file': { when: 'a platform’s archive lay in a zip by itself: it was read from there' },
  'system-junk': { when: 'files that systems leave behind: left out' },
  tar: { when: 'the package is a tar' },
  'entry-repeated': { when: 'two entries of one name: the last is read' },
  'header-contradicts': {
    when: 'an entry’s own header says another name, size or compression than the directory does',
  },
  'name-case': { when: 'a file whose name differs in case from what the manifest says' },
  'name-encoding': { when: 'a file name that is not UTF-8, read as code page 437' },
  'path-backslash': { when: 'a path written with backslashes' },
} satisfies Record<string, CodeDefinition>;

/** What is refused of what people and platforms ask, and what fails. */
const OF_WORK = {
  'address-at-home': { when: 'an address inside the house that Treenail may not speak to' },
  'addresses-untold': {
    when: 'a platform did not say which addresses are its own: links into it are taken for outside ones',
  },
  'another-course': { when: 'a platform sent another course than was asked for' },
  'called-off': { when: 'something is asked of a move that was called off' },
  'can-not-deliver': { when: 'courses can not be delivered into the instance' },
  'can-not-fetch': { when: 'courses can not be fetched from the instance' },
  'copy-damaged': { when: 'the kept bytes of a copy are not what they were', status: 500 },
  'copy-needed': { when: 'a copy is to be removed on which a move stands that is not over' },
  'copy-removed': { when: 'a copy is asked for that was removed' },
  'database-refused': { when: 'the database will not have what was to be written' },
  'database-silent': { when: 'the database does not answer', status: 503 },
  delivered: { when: 'a move is to be called off that is delivered' },
  'delivered-already': { when: 'a move is to be delivered once more' },
  'delivery-begun': { when: 'a fit is to be opened again while its delivery is on its way' },
  'disk-full': { when: 'the disk on which Treenail keeps its files is full, or nearly', status: 507 },
  'export-failed': { when: 'a platform could not make an export' },
  'export-lost': { when: 'a platform loses its exports again and again' },
  'format-not-taken': { when: 'a destination does not take the format that was chosen' },
  'import-failed': { when: 'a platform could not take a package in' },
  'import-not-stopped': { when: 'a platform can not stop an import that has begun' },
  'invalid-request': { when: 'a request is not understood', status: 400 },
  'job-over': { when: 'a job is to be called off that is done' },
  'job-set-aside': { when: 'the worker that had the job went silent over it, more than once' },
  'job-too-long': { when: 'a job was not done within its time, and was ended' },
  'key-wrong': { when: 'the token of an instance was kept under another key' },
  'name-taken': { when: 'there is an instance of that name' },
  'no-profile': { when: 'an instance takes no packages by a standard' },
  'no-repository': { when: 'files can not be taken from the repository of a platform' },
  'no-such-mend': { when: 'there is no mend of that name' },
  'not-allowed': { when: 'only people of another role may do this', status: 403 },
  'not-found': { when: 'what is asked for is not there', status: 404 },
  'not-playable': { when: 'an item reports to no player' },
  'not-yet': { when: 'a step of a move is not done yet', status: 409 },
  'nothing-changed': { when: 'a profile was kept as it was' },
  'nothing-failed': { when: 'nothing has failed that could be tried again', status: 409 },
  'nothing-open': { when: 'no archive or package is open on the Bench' },
  'other-origin': { when: 'a call from a page that is not Treenail’s', status: 403 },
  'outside-off': { when: 'this Treenail does not ask outside addresses' },
  overtaken: { when: 'somebody else changed the profile meanwhile' },
  'parts-of-one': { when: 'parts are chosen of more than one course' },
  'pattern-unfit': { when: 'a pattern of the house can not be used' },
  'platform-cannot': { when: 'an instance can not do what is asked' },
  'platform-credentials': { when: 'a platform refuses the credentials' },
  'platform-full': { when: 'a platform has no room for another export' },
  'platform-gone': { when: 'a platform does not know what is asked for any more' },
  'platform-not-working': { when: 'an instance can not be connected, for it does not work' },
  'platform-refused': { when: 'a platform refused' },
  'platform-silent': { when: 'a platform did not answer for as long as is waited for it' },
  'platform-unknown': { when: 'there is no connector for that kind of platform' },
  'reader-not-loaded': { when: 'what reads files on the Bench could not be loaded' },
  'reader-stumbled': { when: 'what reads files on the Bench stumbled over one' },
  'reading-ended': { when: 'the process that was to show something ended' },
  'reading-too-long': { when: 'what was to be shown was not ready in time' },
  'reading-too-much': { when: 'what was to be shown takes more memory than is given to it' },
  'reason-missing': { when: 'why something is left as it is was not said' },
  'request-too-deep': { when: 'what was sent nests too deep', status: 400 },
  'request-too-long': { when: 'what was sent is too long', status: 413 },
  'sign-in-needed': { when: 'nobody is signed in', status: 401 },
  'sign-in-refused': { when: 'the address or the password is not right', status: 401 },
  'still-open': { when: 'a move is to be put away that is not over' },
  'supply-too-long': { when: 'a file is too long to be put into a course here' },
  'term-dates': { when: 'the dates of a term are not in order' },
  'tidy-closed': { when: 'something is to be decided in a move whose fit is accepted' },
  'too-busy': { when: 'there is more to answer than can be answered just now', status: 503 },
  'upload-gone': { when: 'an uploaded file is not there any more' },
  'version-taken': { when: 'there is a newer version than the one that was written over' },
  'working-copy-behind': { when: 'what was decided last is not in the working copy yet' },
  'wrong-step': { when: 'a move does not stand at the step at which this is asked', status: 409 },
} satisfies Record<string, CodeDefinition>;

export const CODES = { 'Refusals of files': OF_FILES, Notes: NOTED, 'Refusals at work': OF_WORK };

export type ProblemCode = keyof typeof OF_FILES | keyof typeof NOTED | keyof typeof OF_WORK;

const ALL: Readonly<Record<ProblemCode, CodeDefinition>> = { ...OF_FILES, ...NOTED, ...OF_WORK };

/** The HTTP status that goes with a code; of one that an older Treenail gave, or another program, that of a refusal. */
export function statusOf(code: string): number {
  return (Object.hasOwn(ALL, code) ? ALL[code as ProblemCode].status : undefined) ?? 422;
}
