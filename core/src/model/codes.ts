/**
 * Every code that Treenail gives to what it refuses, or notes: when, what to do about it, and its status. A code is stable.
 * The sentence that names what it speaks of, and what to do where that hangs on the case, stand where it is given.
 * `docs/problems.md` is this list.
 */

interface CodeDefinition {
  /** When it is given. */
  readonly when: string;
  /** What a person can do about it. */
  readonly act: string;
  /** HTTP status of the answer (RFC 9110, 15); 422 where not said. */
  readonly status?: number;
}

/** What is refused of files and archives. */
const OF_FILES = {
  'not-a-zip': { when: 'the file is no zip', act: 'Choose the package as the platform exported it.' },
  'zip-truncated': { when: 'it begins as one, but its end is missing or damaged', act: 'Download or export it again.' },
  'zip-encrypted': { when: 'an entry is encrypted', act: 'Export or pack it again without a password.' },
  'zip-method': {
    when: 'an entry is compressed by another method than deflate',
    act: 'Pack it again with the usual method (deflate).',
  },
  'zip-bomb': {
    when: 'an entry, or all together, would unpack beyond the limits',
    act: 'Split the course, or raise the limit.',
  },
  'zip-overlap': { when: 'two entries claim the same bytes', act: 'Export or pack it again.' },
  'zip-too-many': { when: 'more files than the limit', act: 'Split it, or raise the limit.' },
  'entry-leaves-package': {
    when: 'dot-dot, an absolute path, a drive letter, forward or backward slashes',
    act: 'Do not open it elsewhere; export it again from where it came.',
  },
  'entry-link': {
    when: 'an entry is a symbolic link (in a tar: left out, with a note)',
    act: 'Put the file itself in its place.',
  },
  'entry-damaged': {
    when: 'an entry is cut off, can’t be inflated, or does not match its size or checksum',
    act: 'Download or export the package again.',
  },
  'name-deceptive': {
    when: 'a file name with control or direction-override characters',
    act: 'Ask whoever sent the file for it under another name.',
  },
  'name-too-long': { when: 'a file name beyond the limit', act: 'Shorten the name, or raise the limit.' },
  'no-manifest': {
    when: 'no `imsmanifest.xml`, and no page either (where there are pages, this is a note: the outline was made from the folders)',
    act: 'Choose the package as the platform exported it, not a folder zipped by hand.',
  },
  'not-a-cartridge': {
    when: 'the manifest says it is a cartridge, but not of a version that is known',
    act: 'Export the course as a Common Cartridge.',
  },
  'not-a-package': {
    when: 'the manifest is of no standard that is read',
    act: 'Export the course as a Common Cartridge.',
  },
  'tar-damaged': { when: 'a tar that is damaged or cut off', act: 'Download or export it again.' },
  'tar-too-long': {
    when: 'a tar beyond what can be held in memory',
    act: 'Zip the files instead, or open it on the server.',
  },
  'nothing-to-write': {
    when: 'a package of questions is asked for of a course that has none',
    act: 'Choose a format that holds pages and files.',
  },
  'xml-malformed': {
    when: 'not well-formed XML, or an entity that nobody declared; with the line',
    act: 'Export the course again, or mend the file by hand.',
  },
  'xml-entities': {
    when: 'a DOCTYPE that declares entities: none is ever expanded, no file or address read',
    act: 'Take the DOCTYPE out of the file, or export again.',
  },
  'xml-depth': { when: 'XML beyond the limit of depth', act: 'Export the course again.' },
  'text-too-long': { when: 'a text beyond the limit', act: 'Take the file out of the package, or raise the limit.' },
  'unknown-target': { when: 'a format that is not written', act: 'Choose one of the formats that are written.' },
  usage: { when: 'the command line is called otherwise than it can be', act: 'Ask with --help how it is called.' },
  'unknown-command': {
    when: 'the command line is called otherwise than it can be',
    act: 'Ask with --help for those there are.',
  },
  'no-such-file': { when: 'a file to read that is not there, or one to write that is', act: 'Look at its name.' },
  'file-there': {
    when: 'a file to read that is not there, or one to write that is',
    act: 'Give another name: nothing is overwritten.',
  },
  'limit-unknown': {
    when: 'a limit is set that there is none of',
    act: 'Write name=number, with a name of docs/formats.md.',
  },
  'naming-rule': { when: 'a naming rule with an unknown field, or none', act: 'Use the fields that there are.' },
  'archive-damaged': {
    when: 'an archive of a platform that is not what it says, or ends too soon',
    act: 'Export the course again.',
  },
  'yaml-malformed': {
    when: 'a document in an archive that is no YAML, or uses aliases',
    act: 'Export the course again.',
  },
  'archive-document': {
    when: 'a document of a described archive that is not what its name says',
    act: 'Export the course again.',
  },
  'description-yaml': {
    when: 'a description that is no YAML, or has words or values that the language has not: with the line',
    act: 'Mend the line; indent with spaces.',
  },
  'description-malformed': {
    when: 'a description that is no YAML, or has words or values that the language has not: with the line',
    act: 'See the words of a description.',
  },
  'description-name': {
    when: 'a description names records or a rule that are not there, or a path that can’t be followed',
    act: 'Name what the description defines.',
  },
  'description-path': {
    when: 'a description names records or a rule that are not there, or a path that can’t be followed',
    act: 'Mend the path.',
  },
  'description-course': {
    when: 'no record of the course is found by the description, or its records never end',
    act: 'Mend course.find.',
  },
  'description-endless': {
    when: 'no record of the course is found by the description, or its records never end',
    act: 'Mend the description, or export the course again.',
  },
  unexpected: {
    when: 'something went wrong inside Treenail',
    act: 'Try it again; if it fails again, tell whoever runs Treenail.',
    status: 500,
  },
} satisfies Record<string, CodeDefinition>;

/** What was odd in a file, and read all the same. */
const NOTED = {
  'file-missing': {
    when: 'the manifest names a file that is not there (asked for by itself, this is a refusal)',
    act: 'Look for the file at its source.',
  },
  'resource-missing': { when: 'an outline entry without a resource', act: 'Look for it at its source.' },
  'resource-repeated': { when: 'two resources of one identifier: the first is read', act: 'The first one was read.' },
  'attachment-missing': { when: 'an attachment that is not there', act: 'Look for the file at its source.' },
  'link-broken': {
    when: 'a page or text refers to a file that is not there',
    act: 'Put the file there, or take the reference out.',
  },
  'links-broken': {
    when: 'more than 500 links lead to what is not in the package: the rest is counted',
    act: 'They are all among the findings.',
  },
  'text-too-much': {
    when: 'a text has more addresses, or more to be found, than the limit',
    act: 'Look at it yourself: it may be broken, or meant to do harm. The limits can be raised.',
  },
  'text-too-deep': {
    when: 'elements of a text nest more than 1,000 deep: what is below was not read',
    act: 'Look at it yourself: it may be broken, or meant to do harm.',
  },
  'findings-too-many': {
    when: 'a course has more findings than the limit',
    act: 'Decide on some of those that are told, or raise the limit.',
  },
  'foreign-part': { when: 'a resource of a kind that is not read: carried as it is', act: 'It is carried as it is.' },
  protected: {
    when: 'a cartridge, or parts of it, ask for an authorization: shown, and never got around',
    act: 'Ask its publisher for the right to use it; what it protects is carried with that demand.',
  },
  'several-outlines': {
    when: 'more than one organization: the first is the course, the others follow as folders',
    act: 'The first one was read as the course; the others follow it as folders.',
  },
  'manifest-circular': { when: 'a sub-manifest that is part of itself: read once', act: 'It was read once.' },
  'question-missing': { when: 'a test asks for a question that is not there', act: 'Look for it at its source.' },
  'quiz-empty': {
    when: 'a quiz without questions, of its own or drawn',
    act: 'Leave it out, or look for its questions at their source.',
  },
  'quiz-from-bank': {
    when: 'a quiz all of whose questions are drawn from banks',
    act: 'Look whether the destination can draw from banks; where it can not, the quiz arrives empty.',
  },
  'quiz-branches': {
    when: 'a quiz that leads on by what was answered: its questions are read in their order',
    act: 'Look whether the quiz still makes sense, or set its rules again where it arrives.',
  },
  'bank-unused': { when: 'a bank that no quiz draws from', act: 'Leave it out if nobody needs it.' },
  'bank-missing': {
    when: 'a quiz draws from a bank that is not there',
    act: 'Export the bank with the quiz, or put questions of its own into it.',
  },
  'bank-too-small': {
    when: 'a quiz draws more questions than the bank has',
    act: 'Draw fewer, or look for the missing questions at their source.',
  },
  archive: { when: 'the package is a platform’s own archive', act: 'Nothing; it was read.' },
  'foreign-record': { when: 'a record of such an archive that is not understood', act: 'It stays in the archive.' },
  'record-missing': {
    when: 'a record of a described archive points at what is not there',
    act: 'Look for it at its source.',
  },
  'description-part': {
    when: 'a question has parts that its type has no place for: they are left out',
    act: 'Look whether the description names the type rightly.',
  },
  'description-setting': {
    when: 'a value that can not stand for the setting that a description gives it to: not set, told once for each setting',
    act: 'Change what the description says of it.',
  },
  'description-kind': {
    when: 'a record whose kind the description has no word for: left out',
    act: 'Add it to the table of kinds.',
  },
  'wrapped-folder': { when: 'everything lies in one more folder', act: 'Nothing; it was read from there.' },
  'wrapped-file': {
    when: 'a platform’s archive lay in a zip by itself: it was read from there',
    act: 'Nothing; it was read from there.',
  },
  'system-junk': { when: 'files that systems leave behind: left out', act: 'Nothing; they are no part of the course.' },
  tar: { when: 'the package is a tar', act: 'Nothing; it was read.' },
  'entry-repeated': { when: 'two entries of one name: the last is read', act: 'The last one was read.' },
  'header-contradicts': {
    when: 'an entry’s own header says another name, size or compression than the directory does',
    act: 'Do not unpack this file by other means. Ask whoever made it for a clean export.',
  },
  'name-case': { when: 'a file whose name differs in case from what the manifest says', act: 'Nothing; it was read.' },
  'name-encoding': { when: 'a file name that is not UTF-8, read as code page 437', act: 'Look whether it is right.' },
  'path-backslash': { when: 'a path written with backslashes', act: 'Nothing; it was read.' },
} satisfies Record<string, CodeDefinition>;

/** What is refused of what people and platforms ask, and what fails. */
const OF_WORK = {
  'address-at-home': {
    when: 'an address inside the house that Treenail may not speak to',
    act: 'Whoever runs Treenail names it in TREENAIL_HOME_NETS, if it is meant.',
  },
  'addresses-untold': {
    when: 'a platform did not say which addresses are its own: links into it are taken for outside ones',
    act: 'Look again at findings of outside addresses, or move the course anew when the platform answers.',
  },
  'another-course': {
    when: 'a platform sent another course than was asked for',
    act: 'Try again; if it does so again, refresh the register.',
  },
  'called-off': {
    when: 'something is asked of a move that was called off',
    act: 'Start another move of the course: its copies are kept.',
  },
  'can-not-deliver': { when: 'courses can not be delivered into the instance', act: 'Choose another destination.' },
  'can-not-fetch': { when: 'courses can not be fetched from the instance', act: 'Choose courses of another instance.' },
  'copy-damaged': {
    when: 'the kept bytes of a copy are not what they were',
    act: 'Bring the same file once more: it takes its place.',
    status: 500,
  },
  'copy-needed': {
    when: 'a copy is to be removed on which a move stands that is not over',
    act: 'Deliver that move or call it off first.',
  },
  'copy-removed': {
    when: 'a copy is asked for that was removed',
    act: 'Fetch the course again, or take another copy.',
  },
  'database-refused': {
    when: 'the database will not have what was to be written',
    act: 'Look whether the course has a title or a name of unusual length; the log of the worker says more.',
  },
  'database-silent': {
    when: 'the database does not answer',
    act: 'Look whether it is up, then try again.',
    status: 503,
  },
  delivered: { when: 'a move is to be called off that is delivered', act: 'Put it away instead.' },
  'delivered-already': {
    when: 'a move is to be delivered once more',
    act: 'Start another move of the course to deliver it once more.',
  },
  'delivery-begun': {
    when: 'a fit is to be opened again while its delivery is on its way',
    act: 'Call the delivery off first; once it is delivered, start another move of the course.',
  },
  'disk-full': {
    when: 'the disk on which Treenail keeps its files is full, or nearly',
    act: 'Make room (remove copies that nobody needs in the strongroom, or give it a larger disk); then try again.',
    status: 507,
  },
  'export-failed': {
    when: 'a platform could not make an export',
    act: 'Try again; if it fails again, look at the course there.',
  },
  'export-lost': {
    when: 'a platform loses its exports again and again',
    act: 'Look at the platform what becomes of its exports.',
  },
  'format-not-taken': {
    when: 'a destination does not take the format that was chosen',
    act: 'Choose one of those it takes.',
  },
  'import-failed': { when: 'a platform could not take a package in', act: 'Look at its log below, then try again.' },
  'import-not-stopped': {
    when: 'a platform can not stop an import that has begun',
    act: 'Look at the course there: it may still fill.',
  },
  'invalid-request': {
    when: 'a request is not understood',
    act: 'Look at what was sent, and send it anew.',
    status: 400,
  },
  'job-over': { when: 'a job is to be called off that is done', act: 'Reload the page.' },
  'job-set-aside': {
    when: 'the worker that had the job went silent over it, more than once',
    act: 'Look at what it works on: something in it may take more time or memory than there is. Then try it again.',
  },
  'job-too-long': {
    when: 'a job was not done within its time, and was ended',
    act: 'Look at what it works on: something in it may be made to take for ever. Whoever runs Treenail can allow more time.',
  },
  'key-wrong': {
    when: 'the token of an instance was kept under another key',
    act: 'Enter the token again under Platforms, or put the old key back.',
  },
  'name-taken': { when: 'there is an instance of that name', act: 'Give this one another name.' },
  'no-profile': {
    when: 'an instance takes no packages by a standard',
    act: 'Choose an instance that takes courses from other platforms.',
  },
  'no-repository': {
    when: 'files can not be taken from the repository of a platform',
    act: 'Lead the link to a file of the course, or take it off.',
  },
  'no-such-mend': { when: 'there is no mend of that name', act: 'Reload the page and choose again.' },
  'not-allowed': { when: 'only people of another role may do this', act: 'Ask an administrator.', status: 403 },
  'not-found': { when: 'what is asked for is not there', act: 'Go back to the list and choose again.', status: 404 },
  'not-playable': { when: 'an item reports to no player', act: 'Read it in the preview, or choose another item.' },
  'not-yet': { when: 'a step of a move is not done yet', act: 'Wait for the step before it.', status: 409 },
  'nothing-changed': { when: 'a profile was kept as it was', act: 'Change something first.' },
  'nothing-failed': { when: 'nothing has failed that could be tried again', act: 'Reload the page.', status: 409 },
  'nothing-open': { when: 'no archive or package is open on the Bench', act: 'Drop a package first.' },
  'other-origin': { when: 'a call from a page that is not Treenail’s', act: 'Do it in Treenail itself.', status: 403 },
  'outside-off': { when: 'this Treenail does not ask outside addresses', act: 'Ask whoever runs it to allow it.' },
  overtaken: { when: 'somebody else changed the profile meanwhile', act: 'Reload the page and change it there.' },
  'parts-of-one': {
    when: 'parts are chosen of more than one course',
    act: 'Fetch these courses whole, or one by one.',
  },
  'pattern-unfit': { when: 'a pattern of the house can not be used', act: 'Write it as a regular expression.' },
  'platform-cannot': { when: 'an instance can not do what is asked', act: 'Choose another instance.' },
  'platform-credentials': { when: 'a platform refuses the credentials', act: 'Enter a new token for this instance.' },
  'platform-full': {
    when: 'a platform has no room for another export',
    act: 'Delete exports that were made there before (Treenail removes its own when a copy is kept, if asked to), then try again.',
  },
  'platform-gone': {
    when: 'a platform does not know what is asked for any more',
    act: 'Try this step again; if it fails again, refresh the register: the course may be gone there.',
  },
  'platform-not-working': {
    when: 'an instance can not be connected, for it does not work',
    act: 'Mend the address or the token first.',
  },
  'platform-refused': { when: 'a platform refused', act: 'Read what it says; then try again.' },
  'platform-silent': {
    when: 'a platform did not answer for as long as is waited for it',
    act: 'Look whether the platform is up, then try again.',
  },
  'platform-unknown': { when: 'there is no connector for that kind of platform', act: 'Choose another kind.' },
  'reader-not-loaded': {
    when: 'what reads files on the Bench could not be loaded',
    act: 'Reload the page, then open the file again.',
  },
  'reader-stumbled': {
    when: 'what reads files on the Bench stumbled over one',
    act: 'Open it again; if it happens again, keep a copy and look inside by a move, which the server does.',
  },
  'reading-ended': { when: 'the process that was to show something ended', act: 'Try again.' },
  'reading-too-long': { when: 'what was to be shown was not ready in time', act: 'Download the package to read it.' },
  'reading-too-much': {
    when: 'what was to be shown takes more memory than is given to it',
    act: 'Download the package to read it.',
  },
  'reason-missing': { when: 'why something is left as it is was not said', act: 'Give a reason of a few words.' },
  'request-too-deep': { when: 'what was sent nests too deep', act: 'Reload the page and try again.', status: 400 },
  'request-too-long': { when: 'what was sent is too long', act: 'Send less at a time.', status: 413 },
  'sign-in-needed': { when: 'nobody is signed in', act: 'Sign in.', status: 401 },
  'sign-in-refused': { when: 'the address or the password is not right', act: 'Enter both again.', status: 401 },
  'still-open': {
    when: 'a move is to be put away that is not over',
    act: 'Call it off, or go on with it; then it can be put away.',
  },
  'supply-too-long': { when: 'a file is too long to be put into a course here', act: 'Upload it at the destination.' },
  'term-dates': {
    when: 'the dates of a term are not in order',
    act: 'A term ends after it begins, and its breaks lie within it.',
  },
  'tidy-closed': {
    when: 'something is to be decided in a move whose fit is accepted',
    act: 'Open the fit again to decide otherwise, as long as it is not delivered; then start another move of the course.',
  },
  'too-busy': {
    when: 'there is more to answer than can be answered just now',
    act: 'Wait a moment and try again.',
    status: 503,
  },
  'upload-gone': { when: 'an uploaded file is not there any more', act: 'Drop it on the Bench again.' },
  'version-taken': {
    when: 'there is a newer version than the one that was written over',
    act: 'Open it, and bring your changes into it; or give yours another id.',
  },
  'working-copy-behind': {
    when: 'what was decided last is not in the working copy yet',
    act: 'Wait until it is: the bar at the bottom says when.',
  },
  'wrong-step': {
    when: 'a move does not stand at the step at which this is asked',
    act: 'Reload the page and look where it stands.',
    status: 409,
  },
} satisfies Record<string, CodeDefinition>;

export const CODES = { 'Refusals of files': OF_FILES, Notes: NOTED, 'Refusals at work': OF_WORK };

export type ProblemCode = keyof typeof OF_FILES | keyof typeof NOTED | keyof typeof OF_WORK;

const ALL: Readonly<Record<ProblemCode, CodeDefinition>> = { ...OF_FILES, ...NOTED, ...OF_WORK };

/** What a person can do about what bears the code. */
export function actOf(code: ProblemCode): string {
  return ALL[code].act;
}

/** The HTTP status that goes with a code; of one that an older Treenail gave, or another program, that of a refusal. */
export function statusOf(code: string): number {
  return (Object.hasOwn(ALL, code) ? ALL[code as ProblemCode].status : undefined) ?? 422;
}
