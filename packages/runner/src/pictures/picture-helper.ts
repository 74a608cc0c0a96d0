import { readFileSync } from 'node:fs';
import { type BrowserContext, chromium } from 'playwright-core';
import { comparePictures } from './compare-pictures.ts';
import { insidePaths, largestPictureBytes, type PictureJob } from './picture-job.ts';
import { type ServedArtifact, serveArtifact } from './serve-artifact.ts';

// Runs behind the walls, without a network but the loopback: both artifacts are served here, and a browser pictures their
// pages. What it finds goes out as lines of JSON, the only thing that anybody outside reads.
const width = 1280;
const tallest = 3_000;
const loadWithinMs = 10_000;

const job = JSON.parse(readFileSync(insidePaths.job, 'utf8')) as PictureJob;
const before = await serveArtifact(job.before, insidePaths.files);
const after = await serveArtifact(job.after, insidePaths.files);
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  // The walls are the sandbox: inside them there is no room for another one.
  args: ['--no-sandbox', '--disable-dev-shm-usage', '--hide-scrollbars', '--disable-gpu'],
});
try {
  const context = await browser.newContext({
    viewport: { width, height: 800 },
    deviceScaleFactor: 1,
    reducedMotion: 'reduce',
    colorScheme: 'light',
    locale: 'en-GB',
    timezoneId: 'UTC',
    serviceWorkers: 'block',
  });
  await context.clock.setFixedTime(new Date(job.now));
  for (const [place, page] of job.pages.entries()) {
    const said = await pictured(context, page).catch((error: unknown) => ({
      why: (error instanceof Error ? error.message : String(error)).split('\n')[0]?.slice(0, 300),
    }));
    process.stdout.write(`${JSON.stringify({ place, ...said })}\n`);
  }
} finally {
  await browser.close();
  before.stop();
  after.stop();
}

async function pictured(
  context: BrowserContext,
  page: PictureJob['pages'][number],
): Promise<object> {
  const [one, other] = [
    page.before === null ? null : await picture(context, before, page.before),
    page.after === null ? null : await picture(context, after, page.after),
  ];
  if (one === null || other === null) return told(1, one, other, null);
  const { share, shown } = comparePictures(one, other);
  return told(share, shown?.before ?? null, shown?.after ?? null, shown?.difference ?? null);
}

/** What is said of a page; of one whose pictures are too large, how much differs and why it is not seen. */
function told(
  share: number,
  before: Buffer | null,
  after: Buffer | null,
  difference: Buffer | null,
): object {
  const isLarge = [before, after, difference].some(
    (picture) => (picture?.length ?? 0) > largestPictureBytes,
  );
  if (isLarge) return { share, why: 'its pictures are larger than 2 MiB' };
  return {
    share,
    before: textOf(before),
    after: textOf(after),
    difference: textOf(difference),
  };
}

function textOf(picture: Buffer | null): string | null {
  return picture?.toString('base64') ?? null;
}

async function picture(
  context: BrowserContext,
  { origin }: ServedArtifact,
  path: string,
): Promise<Buffer> {
  const page = await context.newPage();
  try {
    // Nothing else is reached from here: what a page asks of others fails at once, the same before and after.
    await page.route(
      (url) => url.origin !== origin,
      (route) => route.abort(),
    );
    const address = path.split('/').map(encodeURIComponent).join('/');
    await page.goto(`${origin}/${address}`, { waitUntil: 'load', timeout: loadWithinMs });
    // Fonts and pictures that come late change where everything stands.
    await page.evaluate('document.fonts.ready.then(() => true)');
    const height = Number(await page.evaluate('document.documentElement.scrollHeight'));
    await page.setViewportSize({ width, height: Math.min(tallest, Math.max(200, height)) });
    return await page.screenshot({ animations: 'disabled', caret: 'hide', timeout: loadWithinMs });
  } finally {
    await page.close();
  }
}
