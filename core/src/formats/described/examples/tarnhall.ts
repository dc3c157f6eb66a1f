import type { ExampleDescription } from './index.ts';

export const TARNHALL: ExampleDescription = {
  name: 'tarnhall',
  label: 'Tarnhall crate, of JSON documents',
  text: `# Tarnhall's crate: a zip of JSON documents that point at one another.
description: 1
id: tarnhall-crate
name: Tarnhall crate
version: '1'
fits: { file: crate.json, has: $.crate }

# Files lie under identifiers; people know them by their names.
files:
  find: $.files[*]
  key: $.id
  held: $.blob
  path: { fill: 'files/{$.id}/{$.path}' }

texts:
  - begins: 'held:'
  - { begins: 'entry:', look: pages }

course:
  find: { in: crate.json }
  title: $.title
  code: $.code
  about: $.about.text
  rights: $.about.rights
  language: $.about.language
  keywords: $.about.words[*]

outline:
  - find: { at: '$.units[*]', follow: true }
    # What stands beside the units lies in one that is loose.
    kind: [{ path: $.loose, table: { 'true': nothing } }, { is: folder }]
    id: [$.origin, { fill: 'tarnhall-{$.id}' }]
    title: $.title
    inside:
      - find: { at: '$.entries[*]', follow: true }
        kind:
          path: $.sort
          table:
            text: page
            file: file
            pointer: link
            launcher: tool
            talk: discussion
            task: assignment
            test: quiz
            heading: heading
        id: [$.origin, { fill: 'tarnhall-{$.id}' }]
        key: $.id
        node: { fill: 'node-{$.id}' }
        title: $.title
        text: $.body
        page: { fill: 'texts/{$.id}.html' }
        file: $.file
        url: $.url
        settings:
          points: $.marks
          submissionFormats: { path: '$.ways[*]', as: list }
          attempts: $.tries
          timeLimit: $.minutes
          instructions: { path: $.body, as: html, when: { path: $.sort, is: test } }
          attachments: { path: '$.files[*]', as: files }
        questions: &questions
          - find: { at: '$.asks[*]', follow: true }
            id: $.key
            title: $.label
            type:
              path: $.form
              table:
                one: choice
                many: multiple response
                yesno: true/false
                word: short answer
                prose: essay
            prompt: $.ask
            points: $.marks
            choices:
              find: $.options[*]
              id: $.key
              text: $.text
              correct: $.right
              feedback: $.reply
            answers:
              find: $.words[*]
              text: $.text
              caseSensitive: $.strict
            feedback:
              general: $.replies.any
              correct: $.replies.right
              incorrect: $.replies.wrong

items:
  - find: { at: '$.pools[*]', follow: true }
    kind: bank
    id: [$.origin, { fill: 'tarnhall-{$.id}' }]
    title: $.title
    questions: *questions
`,
};
