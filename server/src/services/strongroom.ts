import { Refusal, problem } from '@treenail/core';
import type { CopySummary } from '../api/contract.ts';
import { Copy, Move } from '../db/models.ts';

export function asCopySummary(copy: Copy, moveId: number | null): CopySummary {
  return {
    id: copy.id,
    form: copy.form,
    partial: copy.partial,
    personal: copy.personal,
    fileName: copy.fileName,
    code: copy.code,
    section: copy.section,
    term: copy.term,
    title: copy.title,
    from: copy.instanceName,
    format: copy.format,
    size: copy.size,
    sha256: copy.sha256,
    items: copy.items,
    keptAt: copy.keptAt.toISOString(),
    moveId,
  };
}

export async function listCopies(): Promise<CopySummary[]> {
  const [copies, moves] = await Promise.all([
    Copy.findAll({ order: [['keptAt', 'DESC']] }),
    Move.findAll({ attributes: ['id', 'copyId'] }),
  ]);
  const moveOf = new Map(moves.map((m) => [m.copyId, m.id]));
  return copies.map((copy) => asCopySummary(copy, moveOf.get(copy.id) ?? null));
}

export async function copyById(id: number): Promise<Copy> {
  const copy = await Copy.findByPk(id);
  if (!copy) throw new Refusal(problem('not-found', 'There is no such kept copy.', 'Go back to the strongroom.'));
  return copy;
}
