/** A site as it is published: files by path, and what its recipe says under serve. */
export interface Site {
  readonly files: readonly string[];
  readonly serve: string;
}

/** Sites whose rules and names meet in every way that was thought of. */
export const sites = {
  plain: {
    files: [
      'index.html',
      '404.html',
      'fares.html',
      'both.html',
      'both/index.html',
      'harbours/index.html',
      'harbours/orrin.html',
      'harbours/lune/index.html',
      'assets/app.js',
      'assets/plain',
      'a b.txt',
      'fähre.html',
      'Case.html',
      'case.html',
      'v1.2.html',
      'two.html.html',
      'two.html',
      'bare',
      'bare.html',
      'data.json',
      '.well-known/security.txt',
      '.html',
      'dir/.html',
      'q?mark.html',
      'hash#tag.html',
      'per%cent.html',
      'plus+sign.html',
      'semi;colon.html',
      "quo'te.html",
      'star*.html',
      'tilde~.html',
      'at@home.html',
      '..evil/x.html',
      'e/index.html.html',
      'sitemap.xml',
      'page.htm',
    ],
    serve: '  missing: 404.html\n',
  },
  rules: {
    files: [
      'index.html',
      '404.html',
      'timetable/index.html',
      'timetable/orrin.html',
      'planner/index.html',
      'kiosk.html',
      'fares.html',
      'assets/app.js',
      'old.html',
      'shadow.html',
      'tours/summer.html',
    ],
    serve: `  missing: 404.html
  moved:
    /fahrplan: /timetable
    /fahrplan/: /timetable/
    /preise: /fares.html
    /preise/hunde: /fares?dogs=yes#half
    /old: /fares
    /winter/orrin: /harbour-closed
    "/winter/*": "/timetable/*"
    /winter/lune: /never
    "/desk/*": https://desk.ferry.example/in/*
    "/gone/*": /
    /elsewhere: https://ferry.example/new
    /a: /b
    /b: /c
    /c: /timetable/
    /round: /about
    /about: /round
    /self: /self
    /slashes/: /slashes
    "/deeper/*": "/deeper/x/*"
    /pages: /fares.html#pages
    /fähre: /timetable/orrin
    "/up/*": "/*"
    /shadow: /kiosk
    /tours/summer.html: /tours/winter
    /chain: /preise/hunde
  instead:
    /kiosk/stand: /kiosk
    "/planner/*": /planner/index.html
    "/app/*": /kiosk.html
    "/app/deep/*": /fares
    "/lost/*": /not-published
`,
  },
  based: {
    files: [
      'index.html',
      '404.html',
      'guide.html',
      'guide/start.html',
      'assets/app.css',
      'app/index.html',
    ],
    serve: `  base: /handbook/
  missing: 404.html
  moved:
    /old: /handbook/guide
    /handbook/intro: /handbook/guide/start
  instead:
    "/handbook/app/*": /handbook/app/
`,
  },
  several: {
    files: [
      'main/index.html',
      'main/fares.html',
      'sheets/a5.pdf',
      'sheets/index.html',
      'wide/board.html',
    ],
    serve: '',
  },
  whole: {
    files: ['index.html', 'assets/app-1f2e.js', 'about.html'],
    serve: `  instead:
    "/*": /index.html
`,
  },
  entry: {
    files: ['start.html', 'index.html', 'sub/start.html', 'sub/index.html', 'other/index.html'],
    serve: '  entry: start.html\n',
  },
} as const satisfies Readonly<Record<string, Site>>;
