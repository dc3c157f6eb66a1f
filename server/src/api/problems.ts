import { Refusal, statusOf } from '@treenail/core';
import type { ErrorRequestHandler, Response } from 'express';
import type { Logger } from 'pino';
import * as z from 'zod';
import { diskFullRefusal, isDatabaseTrouble, isDiskFull } from '../trouble.ts';
import type { ProblemDocument } from '../contract/index.ts';

/** Everything that is thrown leaves as a problem document (RFC 9457). */
export const answerProblems =
  (log: Logger): ErrorRequestHandler =>
  (error: unknown, _req, res, next) => {
    if (res.headersSent) {
      next(error);
      return;
    }
    const document = documentOf(error);
    if (document.status >= 500) log.error({ err: error }, 'request failed');
    sendProblem(res, document);
  };

/** For what goes wrong after a route has begun to answer, as long as nothing of the answer is sent. */
export function refuse(res: Response, refusal: Refusal): void {
  for (const name of ['Content-Length', 'Content-Disposition', 'Content-Range', 'Accept-Ranges'])
    res.removeHeader(name);
  sendProblem(res, documentOf(refusal));
}

function sendProblem(res: Response, document: ProblemDocument): void {
  res.status(document.status).type('application/problem+json').send(JSON.stringify(document));
}

function documentOf(error: unknown): ProblemDocument {
  if (error instanceof Refusal) {
    const { code, message, action, file, item, line } = error.problem;
    return {
      type: `urn:treenail:problem:${code}`,
      title: message,
      status: statusOf(code),
      code,
      detail: message,
      action,
      ...(file === undefined ? {} : { file }),
      ...(item === undefined ? {} : { item }),
      ...(line === undefined ? {} : { line }),
    };
  }
  if (error instanceof z.ZodError) {
    return {
      type: 'urn:treenail:problem:invalid-request',
      title: 'The request is not understood.',
      status: 400,
      code: 'invalid-request',
      detail: z.prettifyError(error),
      action: 'Reload the page; if it happens again, tell whoever runs Treenail.',
    };
  }
  if (isDiskFull(error)) return documentOf(diskFullRefusal());
  if (error instanceof Error && 'type' in error && error.type === 'entity.too.large') {
    return {
      type: 'urn:treenail:problem:request-too-long',
      title: 'What was sent is too long.',
      status: 413,
      code: 'request-too-long',
      detail: 'What was sent is longer than a megabyte.',
      action: 'Do it in smaller pieces.',
    };
  }
  if (error instanceof Error && 'type' in error && error.type === 'entity.parse.failed') {
    return {
      type: 'urn:treenail:problem:invalid-request',
      title: 'The request is not understood.',
      status: 400,
      code: 'invalid-request',
      detail: 'What was sent is no JSON.',
      action: 'Reload the page; if it happens again, tell whoever runs Treenail.',
    };
  }
  if (isDatabaseTrouble(error)) {
    return {
      type: 'urn:treenail:problem:database-silent',
      title: 'The database does not answer just now.',
      status: 503,
      code: 'database-silent',
      detail: 'The database does not answer just now. What was running goes on once it does.',
      action: 'Wait a moment and try again.',
    };
  }
  const status =
    error instanceof Error && 'status' in error && Number(error.status) >= 400 && Number(error.status) < 500
      ? Number(error.status)
      : 500;
  return {
    type: 'urn:treenail:problem:unexpected',
    title: 'Something went wrong inside Treenail.',
    status,
    code: 'unexpected',
    detail: status < 500 && error instanceof Error ? error.message : 'The log of the server says what.',
    action: 'Try again; if it happens again, tell whoever runs Treenail.',
  };
}
