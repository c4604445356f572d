/**
 * Asks the server once in a while whether it answers, away from the page: a page that is busy drawing would take its
 * own silence for the server's. Posts true or false when the answer differs from the one before.
 */
const EVERY_MS = 800;
const PATIENCE_MS = 900;

let answers = true;
let late = 0;

async function ask(): Promise<void> {
  let refused = false;
  try {
    const response = await fetch('/api/health', { signal: AbortSignal.timeout(PATIENCE_MS), cache: 'no-store' });
    late = 0;
    refused = !response.ok;
  } catch (error) {
    // A refused connection says it at once. One that is only slow is asked again before it is taken for stopped.
    if (error instanceof DOMException && error.name === 'TimeoutError') late++;
    else refused = true;
  }
  const now = !refused && late < 2;
  if (now !== answers) postMessage((answers = now));
  setTimeout(() => void ask(), EVERY_MS);
}

void ask();
