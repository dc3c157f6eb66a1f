import type { ExampleDescription } from './index.ts';

export const DUNLIN: ExampleDescription = {
  name: 'dunlin',
  label: 'Dunlin folio, of XML',
  text: `# A Dunlin folio: a zip with the plan of a course in XML, the texts of its leaves in another, and a hold of files.
description: 1
id: dunlin-folio
name: Dunlin folio
version: '2'
fits: { file: '**/folio.xml', has: /folio/@dunlin }

records:
  leaves:
    find: { in: '**/leaves.xml', at: /leaves/leaf }
    key: '@no'

files:
  find: hold/thing
  key: '@no'
  held: { fill: 'hold/{@no}.bin' }
  path: { fill: 'hold/{@name}' }

texts:
  - { begins: 'thing:', ends: ';' }
  - { begins: 'leaf:', ends: ';', look: pages }

course:
  find: { in: '**/folio.xml', at: /folio }
  title: heading
  code: '@code'
  about: foreword
  rights: '@licence'
  language: '@tongue'
  keywords: subjects/subject

outline:
  - name: chapter
    find: chapter
    kind: folder
    id: { fill: 'chapter-{@no}' }
    title: heading
    inside:
      # In the order in which they stand, whatever they are.
      - find: leaf-ref|thing-ref|errand|trial|palaver|signpost
        kind:
          path: name()
          table:
            leaf-ref: page
            thing-ref: file
            errand: assignment
            trial: quiz
            palaver: discussion
            signpost: link
        id: { fill: 'dunlin-{@no}' }
        key: '@leaf'
        title: [heading, { path: '@leaf', look: leaves, then: heading }, '@name']
        text:
          - { path: '@leaf', look: leaves, then: { path: body, as: inside }, as: inside }
          - { path: brief, as: markdown }
          - words
        file: '@thing'
        url: '@to'
        settings:
          points: { path: '@marks', as: number }
          due: { path: '@due', as: date }
          timeLimit: { path: '@seconds', divide: 60 }
          attempts: { path: '@goes', as: number }
          hidden: { path: '@shut', as: 'yes' }
          password: '@word'
          attachments: { path: with/@thing, as: files }
        questions:
          - find: ask
            id: '@no'
            type:
              path: '@sort'
              table:
                {
                  pick: choice,
                  picks: multiple response,
                  say: short answer,
                  sum: numeric,
                  write: essay,
                  join: matching,
                }
            title: '@called'
            prompt: { path: put, as: inside }
            points: '@marks'
            choices: { find: 'option|left', id: '@no', text: ., correct: '@right', feedback: '@reply' }
            answers: { find: accept, text: . }
            numbers: { find: number, value: '@is', low: '@from', high: '@to' }
            targets: { find: right, id: '@no', text: . }
            pairs: { find: join, choice: '@left', target: '@right' }
            feedback: { general: { path: remark, as: inside } }
      - again: chapter

items:
  - find: roll-call
    kind: attendance
    id: { fill: 'dunlin-{@no}' }
    title: '@name'
    rows: { find: mark, cells: ['@code', '@name', '@worth'] }
  - find: notice
    kind: announcement
    id: { fill: 'dunlin-{@no}' }
    title: heading
    text: { path: body, as: markdown }
    settings: { posted: { path: '@at', as: date } }

personal:
  people: { find: pupils/pupil }
  grades: { find: pupils/pupil/mark }

ignore: ['**/contents.lst']
`,
};
