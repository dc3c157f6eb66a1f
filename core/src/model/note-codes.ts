import type { CodeDefinition } from './code-definition.ts';

/** What was odd in a file, and read all the same. */
export const NOTED = {
  'file-missing': {
    when: 'the manifest names a file that is not there (asked for by itself, this is a refusal)',
    act: 'Look for the file at its source.',
  },
  'calendar-unread': {
    when: 'a calendar file is none that can be read (given as a list of closed days, this is a refusal)',
    act: 'Export it again as iCalendar (.ics).',
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
  'scored-otherwise': {
    when: 'the rules of a question give other points for an answer than the key that was read of them',
    act: 'Carry it in its own format, or set its key by hand where it arrives.',
  },
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
  'manifest-made': {
    when: 'questions came without a manifest: they are read by what each file is',
    act: 'Look whether the order of the questions is the one you want.',
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
