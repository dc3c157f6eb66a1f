import { plainText } from '../markup/index.ts';
import {
  drawsOf,
  holdsQuestions,
  remark,
  warning,
  withGaps,
  type Course,
  type ItemOf,
  type Note,
} from '../model/index.ts';

/** What is wrong with where questions stand: quizzes without any, banks that nobody asks, draws that lead nowhere. */
export function questionNotes(course: Course): Note[] {
  const banks = new Map(course.items.flatMap((i) => (i.kind === 'bank' ? [[i.id, i]] : [])));
  const drawn = new Set<string>();
  const notes: Note[] = course.items.flatMap((i) => (holdsQuestions(i) ? scoredOtherwise(i) : []));
  for (const quiz of course.items) {
    if (quiz.kind !== 'quiz') continue;
    const draws = drawsOf(quiz);
    for (const { bank, number } of draws) {
      drawn.add(bank);
      const found = banks.get(bank);
      if (!found) notes.push(bankMissing(quiz, bank));
      else if (number !== null && number > found.questions.length) notes.push(tooFew(quiz, found, number));
    }
    if (quiz.questions.length > 0) continue;
    const there = draws.flatMap(({ bank }) => banks.get(bank) ?? []);
    notes.push(there.length > 0 ? fromBank(quiz, there) : empty(quiz, [...banks.values()]));
  }
  for (const bank of banks.values()) if (!drawn.has(bank.id)) notes.push(bankUnused(bank));
  return notes;
}

/** Answers that earn other points by the rules of their source than by the key that was read. */
function scoredOtherwise(item: Holder): Note[] {
  return item.questions.flatMap(({ title, prompt, scoredOtherwise: unlike }) => {
    if (!unlike) return [];
    const name = title || plainText(withGaps(prompt.text)).slice(0, 80);
    return [
      warning(
        'scored-otherwise',
        `“${name}”: the answer “${unlike.answer}” earns ${unlike.source} by the rules of its source, and ${unlike.read} by the key that was read of them.`,
        at(item),
      ),
    ];
  });
}

type Holder = ItemOf<'quiz'> | ItemOf<'bank'>;
const at = (item: Holder) => ({ file: item.definitionPath ?? undefined, item: item.title });
const named = (banks: readonly ItemOf<'bank'>[]) => banks.map((b) => `“${b.title}”`).join(', ');

function bankMissing(quiz: ItemOf<'quiz'>, bank: string): Note {
  return warning(
    'bank-missing',
    `“${quiz.title}” draws questions from a bank (${bank}) that is not in the package.`,
    at(quiz),
  );
}

function tooFew(quiz: ItemOf<'quiz'>, bank: ItemOf<'bank'>, number: number): Note {
  return warning(
    'bank-too-small',
    `“${quiz.title}” draws ${number} questions from “${bank.title}”, which has ${bank.questions.length}.`,
    at(quiz),
  );
}

function fromBank(quiz: ItemOf<'quiz'>, banks: readonly ItemOf<'bank'>[]): Note {
  return remark(
    'quiz-from-bank',
    `“${quiz.title}” has no questions of its own: all are drawn from ${named(banks)}.`,
    at(quiz),
  );
}

function empty(quiz: ItemOf<'quiz'>, banks: readonly ItemOf<'bank'>[]): Note {
  return warning(
    'quiz-empty',
    `“${quiz.title}” has no questions.`,
    at(quiz),
    banks.length > 0
      ? `Look whether they stand in ${named(banks.slice(0, 3))}, and put them into the quiz.`
      : 'Leave it out, or look for its questions at their source.',
  );
}

function bankUnused(bank: ItemOf<'bank'>): Note {
  return remark('bank-unused', `No quiz draws from the bank “${bank.title}”.`, at(bank));
}
