import { withoutPlain, type KindRule, type Profile, type SettingName, type SubjectKind } from '../../model/index.ts';

const asPage = (reason: string, ...drops: SettingName[]): KindRule => ({
  carry: 'as',
  ways: [{ as: 'page', reason, drops }],
});

/** What the metadata of a resource says. */
export const SAID: readonly SettingName[] = ['description', 'keywords'];

/** What packages of plain pages can't say, whatever wraps them. */
export const AS_PAGES: Pick<Profile, 'kinds' | 'keeps' | 'settings' | 'questions' | 'questionParts' | 'limits'> = {
  kinds: {
    ...withoutPlain('a package of pages'),
    heading: { carry: 'as', ways: [{ as: 'folder', reason: 'the outline has folders but no headings', drops: [] }] },
    tool: asPage('an external tool becomes a page that links to it', 'customParameters', 'vendor', 'icon'),
    assignment: asPage('the task becomes a page', 'points', 'submissionFormats', 'instructorNotes'),
    discussion: asPage('the discussion becomes a page with its opening text'),
    quiz: asPage('the questions become a page to read, without their keys', 'attempts', 'timeLimit', 'instructions'),
    bank: { carry: 'never', reason: 'a question bank is for authors; pages are read by everyone' },
  },
  keeps: {
    page: [...SAID, 'embeds', 'leads', 'hidden', 'parameters'],
    file: [...SAID, 'embeds', 'leads', 'hidden', 'parameters'],
    link: [],
    tool: [...SAID, 'embeds', 'leads'],
    assignment: [...SAID, 'attachments', 'embeds', 'leads'],
    discussion: [...SAID, 'attachments', 'embeds', 'leads'],
    quiz: [...SAID, 'embeds', 'leads'],
    foreign: [],
  },
  settings: Object.fromEntries(
    (['page', 'file', 'link'] satisfies SubjectKind[]).map((kind) => [
      kind,
      {
        audience: 'pages say nothing of who sees them',
        intendedUse: 'pages say nothing of what they are meant for',
        linkTarget: 'links say nothing of the window they open in',
      },
    ]),
  ),
  questions: {},
  questionParts: {},
  limits: {},
};

export const IMSCP_PROFILE: Profile = { id: 'cp', label: 'Content Packaging 1.2', version: 1, ...AS_PAGES };
