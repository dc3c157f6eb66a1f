import { audit, sessionKey } from '../../services/people.ts';
import { giveFile, givenFile, givenOf, startErrand } from '../../services/errands.ts';
import { moveById, moveSummary } from '../../services/moves.ts';
import type { Services } from '../../services/context.ts';
import type { Read } from '../../services/readings.ts';
import { copyDetail, copyWithBytes, linkedFile, listCopies, removeCopy } from '../../services/strongroom.ts';
import type { SendBlob } from '../sending.ts';
import type { Answers } from '../serve.ts';
import { tokenOf } from '../session.ts';

type Names =
  | 'copies'
  | 'copy'
  | 'copyToLookInto'
  | 'removeCopy'
  | 'play'
  | 'linkedFile'
  | 'copyFile'
  | 'contents'
  | 'startErrand'
  | 'given'
  | 'giveFile'
  | 'givenFile';

/** Kept copies, their bytes, and what is played of them. */
export function copyAnswers(services: Services, read: Read, sendBlob: SendBlob): Answers<Names> {
  return {
    copies: ({ query }) => listCopies(query),
    copy: ({ params: [id] }) => copyDetail(id),
    copyToLookInto: async ({ person, params: [id] }) => {
      const copy = await copyDetail(id);
      await audit(person, 'copy looked into', `copy ${copy.id}`);
      return copy;
    },
    removeCopy: ({ person, params: [id], body: { reason } }) => removeCopy(services, person, id, reason),
    contents: ({ params: [id] }) => read('contentsOf', id),
    startErrand: async ({ person, params: [id], body }) =>
      moveSummary(await moveById(await startErrand(person, id, body))),
    given: async ({ params: [id] }) => ({ given: await givenOf(id) }),
    giveFile: async ({ person, params: [id], body }) => ({ given: await giveFile(services, person, id, body) }),
    givenFile: async ({ person, params: [id], req, res }) => {
      const file = await givenFile(id);
      await audit(person, 'given file downloaded', `copy ${file.copyId}`, { fileName: file.fileName });
      sendBlob(req, res, file);
    },
    play: async ({ person, params: [id], body: { item }, req }) => ({
      address: await read('playItem', person, sessionKey(tokenOf(req) ?? ''), id, item),
    }),
    linkedFile: async ({ person, params: [id, place], req, res }) => {
      const file = await linkedFile(id, place);
      await audit(person, 'linked file downloaded', `copy ${id}`, { fileName: file.fileName });
      sendBlob(req, res, file);
    },
    copyFile: async ({ person, params: [id], req, res }) => {
      const copy = await copyWithBytes(id);
      // Looking inside asks for many parts; that is told once, by the page that begins it.
      if (req.headers.range === undefined) await audit(person, 'copy downloaded', `copy ${copy.id}`);
      sendBlob(req, res, copy);
    },
  };
}
