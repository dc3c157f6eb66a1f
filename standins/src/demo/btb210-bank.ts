import { blank, essay, mc, pattern, tf, type CoursePlan } from './plan.ts';

/** Questions of Wooden Boat Repair that no quiz holds. */
export const BTB210_BANK: CoursePlan['bank'] = {
  title: 'Repair question bank',
  questions: [
    mc(
      'Sap',
      'Why is sapwood cut away from planking stock?',
      ['It is too hard', '*It rots first', 'It will not bend'],
      { topic: 'timber' },
    ),
    mc(
      'Steam time',
      'The rule for steaming is',
      ['an hour a metre of length', '*an hour for each inch of thickness', 'until it smokes'],
      { topic: 'timber' },
    ),
    tf('Green oak', 'Green oak bends better in steam than dry oak.', true, { topic: 'timber' }),
    blank('Grain', 'A split running out of the edge is called grain ______.', ['runout', 'run-out'], 'timber'),
    mc('Larch', 'Larch is chosen for planking because of its', ['weight', '*resin and length', 'colour'], {
      topic: 'timber',
    }),
    mc('Good frames', 'Which timbers make good steamed frames?', ['*Oak', '*Ash', 'Pine'], {
      topic: 'timber',
      points: 2,
    }),
    tf('Elm', 'Elm lasts well when kept always wet.', true, { topic: 'timber' }),
    pattern('Scarf', 'What joint lengthens a plank?', ['scarf', 'scarph'], 'joints'),
    mc('Scarf slope', 'A plank scarf is commonly cut at', ['1 in 2', '1 in 4', '*1 in 8 to 1 in 12'], {
      topic: 'joints',
    }),
    tf('Butt block', 'A butt between frames needs a block behind it.', true, { topic: 'joints' }),
    blank('Bed', 'The joint is bedded before it is ______.', ['closed', 'fastened'], 'joints'),
    mc('Hood end', 'The hood end of a plank meets the', ['*stem', 'transom', 'thwart'], { topic: 'joints' }),
    essay(
      'Two joints',
      'Compare a scarf with a butt block for a garboard.',
      'The scarf keeps the run and spreads the load; the block is quick and leaves a hard spot.',
      6,
    ),
    mc('Treenail size', 'A treenail is driven into a hole that is', ['larger', 'the same', '*a shade smaller'], {
      topic: 'fastenings',
    }),
    tf('Wedge', 'The wedge of a treenail stands along the grain of the plank.', false, {
      topic: 'fastenings',
      feedback: 'Across it, or the plank splits.',
    }),
    blank('Washer', 'The dished washer of a boat nail is a ______.', ['rove', 'burr'], 'fastenings'),
    mc(
      'Dissimilar',
      'Which pairs must not meet in salt water?',
      ['*Steel and bronze', 'Copper and bronze', '*Steel and copper'],
      { topic: 'fastenings', points: 2 },
    ),
    pattern(
      'Eats bronze',
      'Name the effect by which one metal eats another in sea water.',
      ['galvan', 'electroly'],
      'fastenings',
    ),
    tf('Keep count', 'Drawn roves are counted before the plank comes off.', true, { topic: 'fastenings' }),
    mc('Clench', 'A clenched nail is turned', ['*back into the wood', 'over a rove', 'flush and filed'], {
      topic: 'fastenings',
    }),
    mc('Cotton', 'Cotton is rolled in with', ['a chisel', '*a wheel or an iron', 'a knife'], { topic: 'watertight' }),
    tf('Hard seam', 'A seam driven too hard can spring a plank.', true, { topic: 'watertight' }),
    blank('Paying', 'Filling the seam over the cotton is called ______.', ['paying'], 'watertight'),
    mc('Weep', 'A weep at a nail is best cured by', ['paint', '*re-clenching', 'more cotton'], {
      topic: 'watertight',
    }),
    mc(
      'Signs of a sound seam',
      'Which are signs of a sound seam?',
      ['*An even note', '*No fibre standing proud', 'Dark wood'],
      { topic: 'watertight', points: 2 },
    ),
    essay('Her age', 'How would you date a boat that nobody has papers for?', undefined, 5),
  ],
};
