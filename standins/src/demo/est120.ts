import { blank, essay, file, folder, link, mc, page, pattern, talk, tf, type CoursePlan } from './plan.ts';

export const EST120: CoursePlan = {
  code: 'EST 120',
  section: '01',
  term: 'Autumn 2026',
  title: 'Saltmarsh Ecology',
  owner: 'ecology@marrowick.example',
  changedAt: '2026-11-20T09:05:00Z',
  about: 'The marsh from creek to upland: zones, tides, mud and what lives by them.',
  keywords: ['saltmarsh', 'zonation', 'tide', 'survey'],
  drawing: 'contours',
  outline: [
    page(
      'Before the first visit',
      ['Boots, a hat, a whistle. Nobody crosses a creek alone, and nobody crosses one on a making tide.'],
      { picture: 'contours', use: 'syllabus', see: ['Reading a tide table'], download: 'kit-list.pdf' },
    ),
    file('Kit list (PDF)', {
      make: 'pdf',
      name: 'kit-list.pdf',
      lines: ['Boots that lace.', 'Whistle on a cord.', 'Notebook that takes pencil in the rain.'],
    }),
    talk('A marsh you know', 'Where have you stood on a marsh, and what was underfoot?'),
    folder(
      'Part 1: Tide and mud',
      page(
        'Reading a tide table',
        ['Heights are above datum, times are local. Add the springs before you trust the neaps.'],
        { picture: 'contours', see: ['Accretion'] },
      ),
      page(
        'Accretion',
        ['Each tide lays down a skin. Stems slow the water, the water drops its load, the marsh climbs.'],
        { picture: 'contours' },
      ),
      folder(
        'Creeks',
        page(
          'How a creek finds its way',
          ['Water leaves by the lowest line; the line deepens; the line becomes a creek.'],
          { picture: 'contours' },
        ),
        page('Creek banks', ['Cut on the outside, fill on the inside. Banks slump after springs.'], {
          see: ['How a creek finds its way'],
        }),
        folder(
          'For the tutor',
          page('Safe crossing points', ['Planks at 2 and 5 only. Count them over and count them back.'], {
            tutorsOnly: true,
            use: 'lessonplan',
          }),
        ),
      ),
      file('Levels along transect 1 (XLSX)', {
        make: 'xlsx',
        name: 'transect-1.xlsx',
        rows: [
          ['Metre', 'Level m'],
          [0, 1.42],
          [10, 1.61],
          [20, 1.88],
          [30, 2.07],
        ],
      }),
      link('Tide predictions', 'https://tides.marrowick.example/port?name=staithe&datum=chart'),
      {
        kind: 'quiz',
        title: 'Tide and mud',
        intro: 'Twenty minutes.',
        tries: 2,
        minutes: 20,
        questions: [
          mc('Springs', 'Spring tides come', ['in spring', '*near new and full moon', 'once a month'], {
            feedback: 'Twice a lunar month.',
          }),
          tf('Neaps', 'Neap tides have the larger range.', false),
          blank('Skin', 'The building up of mud is called ______.', ['accretion']),
          mc('Slow water', 'Plants raise the marsh because they', ['*slow the water', 'drink it', 'shade it']),
          pattern('Lowest line', 'What carries the ebb off the marsh?', ['creek', 'channel']),
          essay(
            'Level',
            'Explain why a marsh keeps up with a slowly rising sea.',
            'More flooding brings more silt, which raises the surface.',
          ),
        ],
      },
    ),
    folder(
      'Part 2: Plants',
      page(
        'What a plant does with salt',
        ['Some keep it out, some sweat it, some fill themselves with water and stand it.'],
        { picture: 'contours', see: ['Zonation'] },
      ),
      page(
        'Zonation',
        [
          'Height decides salt, salt decides who stands it. Walk up the marsh and the community changes under your feet.',
        ],
        { picture: 'contours', see: ['Pioneers'] },
      ),
      page('Pioneers', ['The first in are annual, fleshy and brief. They hold mud for others.'], {
        picture: 'contours',
      }),
      page('The high marsh', ['Rushes and sea lavender where only springs reach.'], { see: ['Zonation'] }),
      folder(
        'Identification',
        page('Key to nine plants', ['Begin with the leaf: fleshy or flat, opposite or alternate.'], {
          download: 'field-key.docx',
        }),
        file('Field key (DOCX)', {
          make: 'docx',
          name: 'field-key.docx',
          lines: [
            'Leaf fleshy, jointed: glasswort.',
            'Leaf flat, grey, edged: sea purslane.',
            'Leaf basal, flowers violet: sea lavender.',
          ],
        }),
        page('Telling grasses apart', ['Look at the ligule before the flower.'], { picture: 'contours' }),
      ),
      file('Plants of the high marsh (PPTX)', {
        make: 'pptx',
        name: 'high-marsh.pptx',
        lines: ['Sea lavender', 'Sea rush', 'Sea aster'],
      }),
      talk('Which plant would you miss first?', 'Defend one species in five lines.', {
        make: 'png',
        name: 'zones.png',
        drawing: 'contours',
      }),
      {
        kind: 'task',
        title: 'Transect drawing',
        text: '<p>Draw transect 1 from <a href="$PLACE$levels.xlsx">these levels</a> with plants above the line.</p>',
        points: 20,
        ways: ['file'],
        attach: [
          {
            make: 'xlsx',
            name: 'levels.xlsx',
            rows: [
              ['Metre', 'Level'],
              [0, 1.4],
              [10, 1.6],
            ],
          },
        ],
      },
      {
        kind: 'quiz',
        title: 'Nine plants',
        intro: 'From the key only.',
        tries: 1,
        minutes: 15,
        questions: [
          mc('Fleshy', 'Which of these have fleshy leaves or stems?', ['*Glasswort', '*Sea-blite', 'Sea rush'], {
            points: 2,
            picture: 'glasswort.png',
          }),
          tf('Lavender', 'Sea lavender is a pioneer.', false),
          blank('Ligule', 'The membrane where a grass blade leaves the stem is the ______.', ['ligule']),
          mc('High marsh', 'The high marsh is flooded', ['every tide', '*by springs only', 'never']),
          pattern('Edge', 'Name the grey shrub that lines creeks.', ['purslane']),
          mc('Annual', 'Which is annual?', ['*Glasswort', 'Sea rush', 'Cord-grass']),
        ],
      },
    ),
    folder(
      'Part 3: Animals',
      page('Fish in the creeks', ['They come in with the flood and leave a little fatter.']),
      page('Counting what you can not see', ['A core, a sieve, a tray, and patience.'], { see: ['Under the mud'] }),
      page('Under the mud', ['A spade of mud holds more animals than the field behind it.'], { picture: 'contours' }),
      page('Birds by the tide', ['They feed as it leaves and roost as it makes. Count at the turn.'], {
        see: ['Under the mud'],
      }),
      file('Redshank at dawn (MP3)', { make: 'mp3', name: 'redshank-like-call.mp3', hertz: 1180 }),
      folder(
        'Counting',
        page('How to count a flock', ['Count ten, learn what ten looks like, count tens.']),
        file('Count sheet (XLSX)', {
          make: 'xlsx',
          name: 'count-sheet.xlsx',
          rows: [
            ['Time', 'Species', 'Count'],
            ['08:10', 'Wader A', 40],
          ],
        }),
      ),
      {
        kind: 'tool',
        title: 'Marsh map',
        url: 'https://maps.marrowick.example/launch',
        about: 'Plot your quadrats.',
        parameters: { layer: 'marsh', season: 'autumn' },
      },
      link('Bird count archive', 'https://counts.marrowick.example/archive', true),
      {
        kind: 'task',
        title: 'One-hour count',
        text: '<p>Count one hour either side of high water.</p>',
        points: 10,
        ways: ['text', 'file'],
        notes: 'Accept any method that is stated.',
      },
      talk('What disturbed them?', 'Each flight has a cause. What was yours?'),
    ),
    folder(
      'Part 4: A marsh managed',
      page('Reading an old map', ['The wall on the map is the marsh of the century before it.'], {
        picture: 'contours',
      }),
      page('Realigning a sea wall', ['Breach, wait, measure. The sea does the digging.'], { picture: 'contours' }),
      page('Grazing', ['Sheep make a lawn, cattle a mosaic, none a thicket.'], { see: ['Zonation'] }),
      page('Who owns the marsh', ['Rights to cut, graze, gather and walk lie over one another.']),
      file('Breach diary (PDF)', {
        make: 'pdf',
        name: 'breach-diary.pdf',
        lines: ['Day 1: the wall is cut at low water.', 'Day 30: samphire.'],
      }),
      talk('Hold the line or let it go?', 'Take the side you do not hold.'),
      {
        kind: 'task',
        title: 'Management plan',
        text: '<p>Five pages for one marsh, ten years.</p>',
        points: 30,
        ways: ['file', 'url'],
      },
      {
        kind: 'quiz',
        title: 'A marsh managed',
        intro: 'Open book.',
        tries: 3,
        minutes: 25,
        questions: [
          mc('Breach', 'A wall is breached at', ['high water', '*low water', 'any time']),
          tf('Sheep', 'Close grazing raises the number of flowering plants.', false),
          blank('Mosaic', 'Cattle leave a ______ of heights.', ['mosaic', 'patchwork']),
          mc('Rights', 'Which rights may lie on one marsh?', ['*Grazing', '*Wildfowling', '*Gathering'], { points: 2 }),
          pattern('First in', 'What grows first in a breached field?', ['samphire', 'glasswort']),
          essay('Neighbours', 'A neighbour fears flooding from a breach. Answer the letter.', undefined, 6),
        ],
      },
    ),
  ],
  bank: {
    title: 'Marsh question bank',
    questions: [
      mc('Datum', 'Chart datum is near', ['mean sea level', '*the lowest tide', 'high water'], { topic: 'tide' }),
      tf('Twice', 'Most coasts here have two high waters a day.', true, { topic: 'tide' }),
      blank('Turn', 'Still water between flood and ebb is ______ water.', ['slack'], 'tide'),
      mc('Range', 'The range of a tide is', ['*high water less low water', 'its speed', 'its length'], {
        topic: 'tide',
      }),
      mc('Surge', 'A surge adds to the tide when', ['*pressure is low', '*wind is onshore', 'pressure is high'], {
        topic: 'tide',
        points: 2,
      }),
      pattern('Moon', 'What body chiefly raises the tide?', ['moon'], 'tide'),
      mc('Silt', 'Silt grains are', ['larger than sand', '*smaller than sand', 'always shell'], { topic: 'mud' }),
      tf('Black', 'Black mud has no oxygen.', true, { topic: 'mud' }),
      blank('Smell', 'The smell of marsh mud is hydrogen ______.', ['sulphide', 'sulfide'], 'mud'),
      mc('Core', 'A core is kept', ['warm', '*cold and dark', 'in the sun'], { topic: 'mud' }),
      tf('Compaction', 'Marsh mud settles as it dries.', true, { topic: 'mud' }),
      essay(
        'Date a layer',
        'How could you date a layer in a core?',
        'By a known event, by isotopes, by rate of accretion.',
        6,
      ),
      mc('Salt', 'Plants that stand salt are', ['xerophytes', '*halophytes', 'epiphytes'], { topic: 'plants' }),
      mc(
        'Ways with salt',
        'Which are ways of living with salt?',
        ['*Shedding it from glands', '*Diluting it in fleshy tissue', 'Sleeping'],
        { topic: 'plants', points: 2 },
      ),
      tf('Annual marsh', 'Glasswort lives for many years.', false, { topic: 'plants' }),
      blank('Square', 'Plants are counted in a square frame called a ______.', ['quadrat'], 'plants'),
      pattern('Violet', 'Name the violet flower of the high marsh.', ['lavender'], 'plants'),
      mc('Cord-grass', 'Cord-grass spreads by', ['*rhizomes', 'spores', 'bulbs'], { topic: 'plants' }),
      mc('Snail', 'Mud snails eat', ['*films of algae', 'fish', 'birds'], { topic: 'animals' }),
      tf('Roost', 'Waders roost at high water.', true, { topic: 'animals' }),
      blank('Worm', 'The casts on the flat are made by ______.', ['lugworms', 'lugworm'], 'animals'),
      mc('Bill', 'A long curved bill is for', ['fish', '*deep worms', 'seeds'], { topic: 'animals' }),
      pattern('Nursery', 'Young of what use creeks as a nursery?', ['fish', 'bass'], 'animals'),
      tf('Count', 'Flocks are best counted at half tide.', false, { topic: 'animals' }),
      mc('Disturbance', 'Which disturb a roost?', ['*Dogs', '*Low aircraft', 'Rain'], { topic: 'animals', points: 2 }),
      essay('One plan', 'Name one thing you would change on the marsh you know.', undefined, 5),
    ],
  },
};
