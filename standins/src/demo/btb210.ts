import { BTB210_BANK } from './btb210-bank.ts';
import { blank, essay, file, folder, link, mc, page, pattern, talk, tf, type CoursePlan } from './plan.ts';

export const BTB210: CoursePlan = {
  code: 'BTB 210',
  section: '01',
  term: 'Autumn 2026',
  title: 'Wooden Boat Repair',
  owner: 'instructor@marrowick.example',
  changedAt: '2026-11-18T14:20:00Z',
  about: 'Survey, replace and make watertight: one term of repair work on small clinker and carvel craft.',
  keywords: ['clinker', 'carvel', 'repair', 'fastenings'],
  drawing: 'planks',
  outline: [
    page(
      'Start here',
      [
        'Twelve weeks in the repair shed, two boats, one of each build. Bring a sharp block plane.',
        'The first fortnight is reading: what the boat is, what failed, and what to leave alone. Your survey is due by Friday 2 October, before noon; the second boat comes in in week 8.',
      ],
      {
        picture: 'planks',
        use: 'syllabus',
        see: ['Parts of a clinker hull', 'Rules of the shed'],
        download: 'shed-plan.pdf',
        worn: '<h3>Who to ask</h3>\n<p><i class="ico-mail"></i> Write to {~tutor.name~} at <a href="mailto:shed@marrowick.example">shed@marrowick.example</a>. Begin with <a href="@item Caulking@">Caulking</a> if you have a boat of your own, and sit the <a href="@item Names of the parts@">test of names</a> after the first week of {~course.title~}.</p>\n<p>Those who also take <a href="https://courses.marrowick.example/course/c103">Coastal Navigation</a> may join its lamp-signal evening.</p>',
      },
    ),
    page('Rules of the shed', ['Guards stay on. Nobody works alone after six. Dust is wet down before it is swept.'], {
      see: ['Start here'],
      worn: '<p><i class="ico-warning"></i> Read <a href="https://courses.marrowick.example/repository/safety/eye-protection.pdf">Eye protection</a> and sign the <a href="https://courses.marrowick.example/repository/safety/tool-book.pdf">tool book</a>.</p>\n<table><tr><td>Tool</td><td>Guard</td></tr><tr><td>Band saw</td><td>to the cut</td></tr><tr><td>Wheel</td><td>visor</td></tr></table>',
    }),
    file('Plan of the shed (PDF)', {
      make: 'pdf',
      name: 'shed-plan.pdf',
      lines: [
        'Bench row A stands under the north light.',
        'Steam box and stove: east wall, two metres clear.',
        'Fire blanket by each door.',
      ],
    }),
    talk('Introduce your boat', 'Say which boat you know best and what it has taught you about wood.'),
    folder(
      'Week 1: Reading the boat',
      page(
        'Parts of a clinker hull',
        [
          'Strakes overlap at the land and are held by clench nails along it. The garboard meets the keel; the sheer strake closes the top.',
          'Learn the words before the tools: every repair order is written in them.',
        ],
        {
          picture: 'planks',
          see: ['Parts of a carvel hull'],
          worn: '<p><img src="Pictures/Parts-of-a-clinker-hull.png"> <img src="pictures/parts-of-a-carvel-hull.png"></p>\n<p>The <a href="sheets/glossary.pdf">glossary</a> and the <a href="moisture-readings.html#six">six readings</a>.</p>',
        },
      ),
      page(
        'Parts of a carvel hull',
        ['Planks lie edge to edge on frames, and the seams between them are caulked and payed.'],
        { picture: 'planks', see: ['Parts of a clinker hull'] },
      ),
      folder(
        'Survey',
        page(
          'Sounding with a mallet',
          [
            'A sound plank rings, a soft one answers dull. Work from the known good towards the doubtful, and chalk what you hear.',
          ],
          { see: ['Moisture readings'] },
        ),
        page(
          'Moisture readings',
          ['Take six readings a strake, inboard and out. Below eighteen in the hundred the wood will hold glue.'],
          { picture: 'planks' },
        ),
        file('Survey sheet (XLSX)', {
          make: 'xlsx',
          name: 'survey-sheet.xlsx',
          rows: [
            ['Strake', 'Frame', 'Sound', 'Moisture %'],
            ['Garboard', 3, 'dull', 24],
            ['Second', 3, 'clear', 17],
            ['Third', 4, 'clear', 16],
          ],
        }),
        folder(
          'For the tutor',
          page(
            'Where the rot was put',
            ['Boat A: third strake port, frame four, bored and filled. Boat B: hood end of the garboard.'],
            { tutorsOnly: true, use: 'lessonplan' },
          ),
        ),
      ),
      link('Timber moisture tables', 'https://tables.marrowick.example/moisture?unit=percent&species=larch', true),
      {
        kind: 'task',
        title: 'Survey report',
        text: '<p>Survey one boat and report on <a href="$PLACE$survey-form.docx">the form</a>. Say what you would leave alone, and why. The <a href="$PLACE$sample-survey.pdf">sample</a> shows the length wanted.</p>',
        points: 20,
        ways: ['file', 'text'],
        notes: 'Look for the second soft place; most stop at the first.',
        attach: [
          {
            make: 'docx',
            name: 'survey-form.docx',
            lines: ['Boat:', 'Surveyed by:', 'Findings, bow to stern:', 'To be left alone:'],
          },
          {
            make: 'pdf',
            name: 'sample-survey.pdf',
            lines: ['Sample survey of a ten-foot pram.', 'Garboard sound to frame five.'],
          },
        ],
      },
      {
        kind: 'quiz',
        title: 'Names of the parts',
        intro: 'Ten minutes, no notes.',
        tries: 2,
        minutes: 10,
        questions: [
          mc('The overlap', 'Where two clinker strakes overlap is called the', ['*land', 'seam', 'rabbet', 'bevel'], {
            feedback: 'The land carries the fastenings.',
          }),
          mc('Next to the keel', 'Which strake meets the keel?', ['Sheer strake', '*Garboard', 'Rubbing strake'], {
            points: 1,
            picture: 'hull-section.png',
          }),
          tf('Carvel seams', 'Carvel planks overlap each other.', false, { feedback: 'They lie edge to edge.' }),
          blank('The groove', 'The groove in the keel that takes the garboard is the ______.', ['rabbet', 'rebate']),
          mc(
            'Clinker only',
            'Which of these belong to a clinker hull?',
            ['*Clench nails', 'Caulking cotton', '*Roves', 'Seam compound'],
            { points: 3 },
          ),
          pattern('Frame', 'Name one member that runs across the hull and gives it shape.', ['frame', 'rib', 'timber']),
        ],
      },
    ),
    folder(
      'Week 2: Taking out the old',
      page(
        'What to keep',
        ['Bag it, label it, hang it on the boat. Nothing is thrown away before the new plank is on.'],
        { see: ['Saving the pattern'] },
      ),
      page(
        'Drawing fastenings',
        ['Grind the clench flat, punch the nail back through, and keep every rove for the count.'],
        { picture: 'planks', see: ['Treenails, rivets and roves'] },
      ),
      page(
        'Saving the pattern',
        ['The old plank is the best pattern you will get. Draw it out whole even when half of it is dust.'],
        { download: 'spiling-notes.pdf' },
      ),
      file('Notes on spiling (PDF)', {
        make: 'pdf',
        name: 'spiling-notes.pdf',
        lines: ['Lay the spiling batten without edge set.', 'Strike arcs of one radius from the batten to the line.'],
      }),
      folder(
        'Spiling',
        page(
          'The spiling batten',
          ['A batten forced sideways lies about the shape. Let it hang where it will and scribe the difference.'],
          { picture: 'planks' },
        ),
        page(
          'From batten to plank',
          ['Set the same compass, strike back from the batten marks, and spring a lath through the crossings.'],
          { see: ['The spiling batten'] },
        ),
        file('Spiling in twelve pictures (PPTX)', {
          make: 'pptx',
          name: 'spiling-in-pictures.pptx',
          lines: [
            'Fair the edge of the strake below.',
            'Tack the batten where it lies easy.',
            'One radius, kept locked.',
            'Strike back, spring the lath.',
          ],
        }),
      ),
      talk(
        'What did the old plank tell you?',
        'Post a picture of your old plank and what its grain says about the failure.',
        { make: 'png', name: 'old-plank.png', drawing: 'planks' },
      ),
      {
        kind: 'task',
        title: 'Spile and mark out a strake',
        text: '<p>Spile the third strake of your boat and mark out the new plank. Hand in a photograph with a rule in it.</p>',
        points: 15,
        ways: ['file'],
      },
    ),
    folder(
      'Week 3: Ropework',
      page(
        'Reading: the anatomy of a rope',
        ['Fibres make yarns, yarns make strands, three strands laid up right-handed make a hawser-laid rope.'],
        { picture: 'planks' },
      ),
      file('Knots and bends, the sheet', {
        make: 'docx',
        name: 'Wk 3 – knots & bends (final) FINAL.docx',
        lines: [
          'Rolling hitch: pulls along a spar.',
          'Double sheet bend: two ropes of unlike size.',
          'Constrictor: bites and stays.',
        ],
      }),
      {
        kind: 'quiz',
        title: 'Knots and whippings test',
        intro: '<p>Answer all. Your <em>second</em> attempt counts if it is better.</p>',
        tries: 2,
        minutes: 45,
        questions: [
          mc(
            'Whipping',
            'A sailmaker’s whipping differs from a common one in that it',
            ['*is stitched through the strands', 'is waxed', 'is wider than the rope'],
            { feedback: 'Stitching keeps it when the rope slackens.' },
          ),
          tf('Splice strength', 'A tucked eye splice keeps more of a rope’s strength than a bowline does.', true),
          blank('Three strands', 'Rope of three strands laid right-handed is called ______-laid.', ['hawser']),
          pattern('Along a spar', 'Which hitch holds a pull along a spar?', ['rolling', 'hitch']),
          mc(
            'Unlike sizes',
            'Which bends join ropes of unlike size?',
            ['*Double sheet bend', 'Reef knot', '*Carrick bend', 'Granny'],
            { points: 3 },
          ),
          essay(
            'Choose and defend',
            'Choose a knot for a mooring line that must be cast off under load, and defend it.',
            'A round turn takes the load; two half hitches release it. A bowline will not come undone under strain.',
          ),
        ],
      },
      link('A film of a long splice', 'https://films.marrowick.example/long-splice'),
      {
        kind: 'task',
        title: 'Splice log',
        text: '<p>Log five splices: rope, tucks, minutes, what you would do otherwise.</p>',
        points: 10,
        ways: ['text', 'url'],
      },
    ),
    folder(
      'Week 4: Fastenings',
      page('Words for fastenings', [
        'Dump, clench, rove, burr, spike, trunnel: the shed uses all of them, and each means one thing.',
      ]),
      page(
        'Treenails, rivets and roves',
        [
          'A treenail is a peg of dry oak driven into a hole a shade too small, and wedged. It swells as it drinks, and holds.',
          'A copper rivet is clenched over a rove, a dished washer that bites.',
        ],
        { picture: 'planks', see: ['Drawing fastenings'] },
      ),
      page(
        'Bronze and its enemies',
        ['Steel beside bronze in salt water feeds the bronze. Keep them a hand apart, or do without one.'],
        {
          see: ['Treenails, rivets and roves'],
          worn: '<iframe src="https://films.marrowick.example/frame/bronze" title="Bronze under the glass"></iframe>\n<p>Prices are at <a href="http://chandler.example/bronze-2019.html">the chandler</a>, tables at <a href="//tables.marrowick.example/galvanic">the yard</a>.</p>',
        },
      ),
      file('Fastening schedule (XLSX)', {
        make: 'xlsx',
        name: 'fastening-schedule.xlsx',
        rows: [
          ['Plank mm', 'Nail gauge', 'Rove mm', 'Spacing mm'],
          [9, 12, 11, 100],
          [12, 10, 13, 115],
          [15, 8, 15, 130],
        ],
      }),
      file('The sound of a tight rivet (MP3)', { make: 'mp3', name: 'tight-rivet.mp3', hertz: 620 }),
      {
        kind: 'tool',
        title: 'Fastening calculator',
        url: 'https://calc.marrowick.example/launch',
        about: 'Works out spacing and gauge for a planking thickness.',
        parameters: { course: 'BTB210', units: 'metric', metal: 'copper' },
      },
      {
        kind: 'task',
        title: 'Fastening schedule for your boat',
        text: '<p>Work out the schedule for your strake and hand it in as a sheet.</p>',
        points: 15,
        ways: ['file'],
      },
      talk('Copper or bronze?', '<p>Argue for <b>one</b>. Prices in the <a href="$PLACE$prices.xlsx">sheet</a>.</p>', {
        make: 'xlsx',
        name: 'prices.xlsx',
        rows: [
          ['Fastening', 'Each'],
          ['Copper nail 10g', 0.31],
          ['Bronze screw 8', 0.74],
        ],
      }),
    ),
    folder(
      'Week 5: Making watertight',
      page('Caulking', ['Cotton is rolled in, never stuffed. The seam tells you by its note when it is full.'], {
        picture: 'planks',
        download: 'mallet-and-iron.wav',
      }),
      file('Mallet and iron, a whole seam (WAV)', { make: 'wav', name: 'mallet-and-iron.wav', bytes: 24_500_000 }),
      page('Paying the seam', ['Prime bare wood first or it drinks the oil out of the compound.'], {
        see: ['Caulking'],
      }),
      folder(
        'Taking up',
        page(
          'Letting her swell',
          ['A dry boat leaks, and stops. Two days afloat in the slings before anyone worries.'],
          { picture: 'planks' },
        ),
        page('Soft patch', ['A tingle of copper on bedding compound will bring a boat home.']),
      ),
      {
        kind: 'quiz',
        title: 'Watertight',
        intro: 'Open book.',
        tries: 3,
        minutes: 20,
        questions: [
          mc('Full seam', 'How do you know that a seam is full of cotton?', [
            'By weighing',
            '*By the note of the mallet',
            'By the colour',
          ]),
          tf('Prime first', 'Seam compound goes on bare wood.', false, { feedback: 'Bare wood drinks the oil.' }),
          blank('The tool', 'Cotton is driven with a caulking ______ and mallet.', ['iron']),
          mc(
            'Taking up',
            'A boat launched dry should',
            ['be pumped and hauled at once', '*hang in slings until she has taken up', 'be filled with hot water'],
            { points: 2 },
          ),
          pattern('Tingle', 'What metal is a tingle made of?', ['copper', 'lead']),
          essay(
            'Leak plan',
            'She makes a bucket an hour on the second day. What do you look at, in order?',
            undefined,
            6,
          ),
        ],
      },
      {
        kind: 'task',
        title: 'Watertight: the final hand-in of the whole repair with photographs and costs',
        text: '<p>One document: survey, repair, cost, afloat.</p>',
        points: 40,
        ways: ['file', 'url'],
        notes: 'Second marker from the rigging course.',
      },
    ),
  ],
  bank: BTB210_BANK,
};
