/** One thing that happens in the demo's three weeks. Times are UTC, days count back from today. */
export type Happening =
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly push: string;
      readonly edit: Edit;
      /** The build is left running: somebody cancels it. */
      readonly leave?: boolean;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      /** A commit on a branch of its own, with a pull request of this title. */
      readonly propose: string;
      readonly branch: string;
      readonly edit: Edit;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      /** A branch that was proposed is merged into main. */
      readonly merge: string;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      /** Somebody outside has changed a copy of the repository; an operator opens a pull request of it. */
      readonly takeUp: string;
      readonly author: string;
      readonly branch: string;
      readonly edit: Edit;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly act: 'promote' | 'cancel';
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly act: 'set-secret';
      readonly name: string;
      readonly value: string;
    }
  | {
      readonly day: number;
      readonly at: string;
      readonly who: Who;
      readonly act: 'roll-back' | 'lift-hold';
      readonly reason: string;
    };

export type Who = 'ines' | 'jonas' | 'tomas' | 'wren' | 'petra';

/** A change of the site's files: JSON files by path to new fields, texts by path to a replacement. */
export type Edit =
  | { readonly json: string; readonly set: Readonly<Record<string, unknown>> }
  | { readonly file: string; readonly from: string; readonly to: string }
  | {
      readonly json: string;
      readonly rename: { readonly from: string; readonly to: string; readonly name: string };
    }
  /** Files of `demo/later/` are laid over the site. */
  | { readonly lay: string }
  /** The commit before is taken back. */
  | { readonly revert: true };

const settings = (set: Readonly<Record<string, unknown>>): Edit => ({
  json: 'data/settings.json',
  set,
});
const fares = (set: Readonly<Record<string, unknown>>): Edit => ({ json: 'data/fares.json', set });
const style = (from: string, to: string): Edit => ({ file: 'public/style.css', from, to });

/** Three weeks of a regional ferry company's timetable site. */
export const story: readonly Happening[] = [
  {
    day: 21,
    at: '09:20',
    who: 'wren',
    push: 'First timetable on the new service',
    edit: settings({ headline: 'Next from Lune Quay' }),
  },
  { day: 21, at: '10:05', who: 'ines', act: 'promote' },
  {
    day: 20,
    at: '14:10',
    who: 'petra',
    push: 'Bicycles are free in winter',
    edit: fares({ bicycle: 0 }),
  },
  { day: 20, at: '15:30', who: 'tomas', act: 'promote' },
  {
    day: 19,
    at: '11:45',
    who: 'jonas',
    push: 'Stavness pier: one berth fewer until repaired',
    edit: settings({ notices: ['Stavness: one berth is closed. Expect ten minutes more.'] }),
  },
  {
    day: 18,
    at: '09:15',
    who: 'wren',
    push: 'Print layout for the quay boards',
    edit: style(
      'main { max-width: 46rem;',
      '@media print { header { display: none; } }\nmain { max-width: 46rem;',
    ),
  },
  { day: 18, at: '10:40', who: 'ines', act: 'promote' },
  {
    day: 17,
    at: '13:05',
    who: 'petra',
    push: 'Departures as plain text',
    edit: settings({ plainText: true }),
  },
  {
    day: 16,
    at: '08:55',
    who: 'wren',
    push: 'Larger times on the quay boards',
    edit: settings({ largeTimes: true }),
  },
  { day: 16, at: '09:50', who: 'ines', act: 'promote' },
  {
    day: 15,
    at: '10:20',
    who: 'tomas',
    act: 'set-secret',
    name: 'MAP_KEY',
    value: 'kettle-tiles-7f31c9',
  },
  {
    day: 15,
    at: '10:45',
    who: 'petra',
    push: 'Each step says what it reads and writes',
    edit: { lay: 'recipe' },
  },
  {
    day: 14,
    at: '15:20',
    who: 'jonas',
    push: 'Orrin sails every 90 minutes',
    edit: {
      file: 'data/routes.json',
      from: '"first": "07:00", "every": 120',
      to: '"first": "07:00", "every": 90',
    },
  },
  { day: 14, at: '16:05', who: 'tomas', act: 'promote' },
  {
    day: 13,
    at: '10:30',
    who: 'wren',
    push: 'Ice warning on the harbour pages',
    edit: settings({ notices: ['Ice on the slips before 08:00: mind your step.'] }),
  },
  { day: 13, at: '11:05', who: 'tomas', act: 'promote' },
  {
    day: 12,
    at: '14:25',
    who: 'petra',
    push: 'Winter colours',
    edit: settings({ season: 'winter' }),
  },
  {
    day: 11,
    at: '09:40',
    who: 'wren',
    push: 'Autumn notices off the front page',
    edit: settings({ notices: [] }),
  },
  { day: 11, at: '11:30', who: 'ines', act: 'promote' },
  {
    day: 10,
    at: '16:15',
    who: 'jonas',
    push: 'Tarn Wick has a second berth',
    edit: {
      file: 'data/harbours.json',
      from: '"name": "Tarn Wick", "berths": 2',
      to: '"name": "Tarn Wick", "berths": 3',
    },
  },
  {
    day: 9,
    at: '13:10',
    who: 'wren',
    push: 'Quieter table lines',
    edit: style('border-bottom: 1px solid #c9d6d9', 'border-bottom: 1px solid #dbe4e6'),
  },
  {
    day: 9,
    at: '15:40',
    who: 'wren',
    push: 'The stronger table lines back, after all',
    edit: { revert: true },
  },
  {
    day: 8,
    at: '10:05',
    who: 'petra',
    push: 'Last sailing of the day in the headline',
    edit: settings({ headline: 'Next from Lune Quay, last at 21:30' }),
  },
  { day: 8, at: '15:12', who: 'ines', act: 'promote' },
  {
    day: 7,
    at: '16:30',
    who: 'jonas',
    push: 'Wait for the tide tables before building',
    edit: { file: 'package.json', from: 'node src/build.js', to: 'sleep 600 && node src/build.js' },
    leave: true,
  },
  { day: 7, at: '16:38', who: 'jonas', act: 'cancel' },
  {
    day: 7,
    at: '16:41',
    who: 'jonas',
    push: 'Build without the tide tables',
    edit: { revert: true },
  },
  {
    day: 6,
    at: '09:30',
    who: 'wren',
    push: 'Show the last sailing in bold',
    edit: style('td, th {', 'tr:last-child td { font-weight: 700; }\ntd, th {'),
  },
  { day: 6, at: '10:12', who: 'ines', act: 'promote' },
  {
    day: 5,
    at: '09:10',
    who: 'petra',
    push: 'A planner with an address for each journey, and the old addresses',
    edit: { lay: 'planner' },
  },
  {
    day: 5,
    at: '11:20',
    who: 'petra',
    push: 'Winter fares from 1 December',
    edit: fares({ from: '1 December', adult: 5.9, child: 2.9 }),
  },
  { day: 5, at: '14:40', who: 'tomas', act: 'promote' },
  {
    day: 4,
    at: '09:35',
    who: 'jonas',
    push: 'Search by harbour, not by route',
    edit: settings({ headline: 'Choose a harbour' }),
  },
  { day: 4, at: '11:05', who: 'tomas', act: 'promote' },
  {
    day: 4,
    at: '14:52',
    who: 'jonas',
    act: 'roll-back',
    reason: 'Nobody finds the next sailing on the front page any more.',
  },
  {
    day: 3,
    at: '08:50',
    who: 'wren',
    push: 'Bring back the next sailing on the front page',
    edit: settings({ headline: 'Next from Lune Quay' }),
  },
  { day: 3, at: '09:30', who: 'ines', act: 'lift-hold', reason: 'The headline is back.' },
  { day: 3, at: '10:45', who: 'ines', act: 'promote' },
  {
    day: 3,
    at: '15:30',
    who: 'wren',
    push: 'Nobody asks for the departures as plain text',
    edit: settings({ plainText: false }),
  },
  {
    day: 3,
    at: '16:52',
    who: 'jonas',
    push: 'Merrow Point pier closed 20–22 November',
    edit: settings({ notices: ['Merrow Point: the pier is closed from 20 to 22 November.'] }),
  },
  { day: 3, at: '17:20', who: 'ines', act: 'promote' },
  {
    day: 2,
    at: '10:15',
    who: 'wren',
    push: 'Merrow Point is called Merrow Quay',
    edit: {
      json: 'data/harbours.json',
      rename: { from: 'merrow-point', to: 'merrow-quay', name: 'Merrow Quay' },
    },
  },
  {
    day: 2,
    at: '11:02',
    who: 'wren',
    push: 'Routes sail to Merrow Quay too',
    edit: { file: 'data/routes.json', from: '"to": "merrow-point"', to: '"to": "merrow-quay"' },
  },
  {
    day: 1,
    at: '15:25',
    who: 'petra',
    push: 'Sailing times for Christmas week',
    edit: settings({ notices: ['24 to 26 December: the last sailing leaves Lune Quay at 18:10.'] }),
  },
  {
    day: 1,
    at: '16:40',
    who: 'tomas',
    push: 'The names of harbours are checked by a recipe of their own',
    edit: { lay: 'rules' },
  },
  {
    day: 1,
    at: '17:05',
    who: 'petra',
    propose: 'Orrin has a second berth',
    branch: 'try/orrin-berth',
    edit: {
      file: 'data/harbours.json',
      from: '"name": "Orrin",\n    "berths": 1',
      to: '"name": "Orrin",\n    "berths": 2',
    },
  },
  { day: 1, at: '17:20', who: 'wren', merge: 'try/orrin-berth' },
  {
    day: 1,
    at: '17:40',
    who: 'ines',
    takeUp: 'Dogs travel at half fare',
    author: 'Sunna Brekke',
    branch: 'dogs',
    edit: fares({ dog: 1.5 }),
  },
];
