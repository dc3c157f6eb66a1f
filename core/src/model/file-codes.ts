import type { CodeDefinition } from './code-definition.ts';

/** What is refused of files and archives. */
export const OF_FILES = {
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
  'output-unsound': {
    when: 'what would be written is against the standard of its format; nothing is given then',
    act: 'Choose another format, and tell whoever runs Treenail: this is a fault of the program.',
  },
  'not-whole': {
    when: 'a strict conversion would lose what nobody allowed to be lost',
    act: 'Allow by name what may be lost (--allow), choose another target, or convert without --strict.',
  },
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
