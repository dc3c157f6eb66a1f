import type { CodeDefinition } from './code-definition.ts';

/** What is refused of what people and platforms ask, and what fails. */
export const OF_WORK = {
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
  'course-read-only': {
    when: 'a course of the destination can be read, but not changed, with what Treenail signs in by',
    act: 'Ask whoever keeps it for the right to change it, or choose another course.',
  },
  'course-shut': {
    when: 'a course of the destination is shut, or archived',
    act: 'Open it there, or choose another course.',
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
    when: 'a fit is to be opened again, or a further part called off, once its delivery has begun',
    act: 'Call the delivery off first; once it is delivered, start another move of the course.',
  },
  'destination-busy': {
    when: 'two moves are to be delivered into one course at once',
    act: 'Wait until the other is delivered; then look at the course again.',
  },
  'destination-changed': {
    when: 'a course was changed at the destination since it was looked at',
    act: 'Call the delivery off where it is on its way; look at what is there now, and deliver.',
  },
  'destination-full': {
    when: 'a destination has no room for a package',
    act: 'Make room there, or have its quota raised; then try again. What is built stays.',
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
  'no-way-back': {
    when: 'a delivery can not be taken back',
    act: 'Take out at the destination what should not be there.',
  },
  'no-way-in': {
    when: 'a platform takes courses only into new shells',
    act: 'Deliver into a new shell.',
  },
  'no-such-mend': { when: 'there is no mend of that name', act: 'Reload the page and choose again.' },
  'not-allowed': { when: 'only people of another role may do this', act: 'Ask an administrator.', status: 403 },
  'not-kept': {
    when: 'no copy could be kept of what a delivery would take away',
    act: 'Try again; nothing is taken away before a copy is kept.',
  },
  'not-typed': {
    when: "learners' work would be lost, and nobody said that this is meant",
    act: 'Type the title of the course, or choose to deliver beside what is there.',
  },
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
  'people-unsaid': {
    when: 'records of students would go along, and nobody said that they are to, and why',
    act: 'At Tidy, take them out, or leave them in with a reason.',
  },
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
  'platform-no-right': {
    when: 'a platform lets the key in, but not do what is asked',
    act: 'Have the right added to the key of this instance, or ask whoever has it.',
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
  'references-left': {
    when: 'what was chosen to be restored or given refers to what does not go with it',
    act: 'See at Tidy what goes, let more go with it, or accept the fit as it is.',
  },
  'request-too-deep': { when: 'what was sent nests too deep', act: 'Reload the page and try again.', status: 400 },
  'request-too-long': { when: 'what was sent is too long', act: 'Send less at a time.', status: 413 },
  'sign-in-needed': { when: 'nobody is signed in', act: 'Sign in.', status: 401 },
  'sign-in-refused': { when: 'the address or the password is not right', act: 'Enter both again.', status: 401 },
  'source-newer': {
    when: 'a course was changed at its source after the copy was kept that is to be delivered',
    act: 'Start a move that fetches it anew, or deliver the copy as it is.',
  },
  'still-open': {
    when: 'a move is to be put away that is not over',
    act: 'Call it off, or go on with it; then it can be put away.',
  },
  'rules-contradict': {
    when: 'two rules say where the same dates go',
    act: 'Take one of them out, or let them speak of different dates.',
  },
  'supply-too-long': { when: 'a file is too long to be put into a course here', act: 'Upload it at the destination.' },
  'cut-through-item': {
    when: 'a course is to be split between an item and what stands below it',
    act: 'Let both go into one part, or the item into all.',
  },
  'join-itself': { when: 'a course is to be joined with itself', act: 'Choose another course, package or kept copy.' },
  'no-cut': { when: 'a course has nothing to cut between', act: 'Say where it is to be cut: a plan, or its terms.' },
  'no-such-part': {
    when: 'something is to go into a part that there is not',
    act: 'Choose one of the parts, or add one.',
  },
  'part-empty': {
    when: 'a part of a course that is split, or that goes in parts, would have nothing of its own',
    act: 'Give it a folder or an item, or take the part out.',
  },
  'dates-table': {
    when: 'a table of dates that was brought back can’t be taken as it is',
    act: 'Mend the line, and give the table again: nothing of it was taken.',
  },
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
  'way-not-taken': {
    when: 'a move is to go into a course in a way that the format which it is carried in can not go',
    act: 'Choose another way, or another format at the fit.',
  },
  'wrong-step': {
    when: 'a move does not stand at the step at which this is asked',
    act: 'Reload the page and look where it stands.',
    status: 409,
  },
} satisfies Record<string, CodeDefinition>;
