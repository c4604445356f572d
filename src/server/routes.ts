/** The HTTP interface to documents and starters. */
import { Router, json, raw, type ErrorRequestHandler, type Request } from 'express';
import { z } from 'zod';
import { whatIsUnwholesome } from '../core/base/wholesome.js';
import { readEffect, type Problem } from '../core/effect/read.js';
import { MAX_FILE_BYTES } from '../core/effect/schema.js';
import { writeRead } from '../core/effect/write.js';
import { MAX_BUNDLE_BYTES } from '../core/formats/bundle.js';
import { readStage, writeStage } from '../core/scene/stage.js';
import { MAX_ASSET_BYTES, isAssetName } from '../store/assets.js';
import { lackingStrips, listEffects, stripKey, type PageEnd } from '../store/cards.js';
import type { Database } from '../store/database.js';
import { DocumentRow, StripRow } from '../store/rows.js';
import { MOST_KEPT, saveDocument, type Format } from '../store/documents.js';
import { listRevisions, nameRevision, revisionText } from '../store/revisions.js';
import { archiveEffect, deleteStage, listStages } from '../store/stages.js';
import { TooLarge } from '../store/incoming.js';
import { diskTrouble, isLocked } from '../store/trouble.js';
import { takeBundle } from './bundles.js';
import type { DemoWorld } from './demo.js';
import { fail } from './fail.js';
import { motifRoutes, sharedRoutes } from './libraryRoutes.js';

const MAX_STRIP_BYTES = 2 * 1024 * 1024;
const isWebp = (bytes: Buffer) => bytes.toString('latin1', 0, 4) === 'RIFF' && bytes.toString('latin1', 8, 12) === 'WEBP';

const saveBody = z.strictObject({
  saveId: z.string().regex(/^[\w.:-]{8,64}$/),
  document: z.unknown(),
  /** Files that steps of undo may bring back: they stay. */
  keeps: z
    .array(z.string().regex(/^[0-9a-f]{64}$/))
    .max(MOST_KEPT)
    .optional(),
});

type Read =
  | { readonly ok: true; readonly id: string; readonly name: string; readonly text: string }
  | { readonly ok: false; readonly problems: readonly Problem[] };

const READERS: Record<Format, (parsed: unknown) => Read> = {
  effect: (parsed) => {
    const result = readEffect(parsed);
    return result.ok ? { ok: true, id: result.effect.id, name: result.effect.name, text: writeRead(result.effect) } : result;
  },
  stage: (parsed) => {
    const result = readStage(parsed);
    return result.ok ? { ok: true, id: result.stage.id, name: result.stage.name, text: writeStage(result.stage) } : result;
  },
};

const clientOf = (req: Pick<Request, 'get'>): string => (req.get('X-Wispen-Client') ?? 'unknown').slice(0, 64);
const tag = (version: number) => `"v${version}"`;
const versionOf = (header: string | undefined) => {
  const match = /^"v(\d+)"$/.exec(header ?? '');
  return match ? Number(match[1]) : undefined;
};

/** The number of a revision; one that is none is of no revision. */
const revisionOf = (text: string): number => (/^\d{1,15}$/.test(text) ? Number(text) : -1);

/** @returns undefined when it cannot be one */
function pageEnd(text: unknown): PageEnd | undefined {
  const match = typeof text === 'string' ? /^(\S{10,30}) ([\w…-]{1,64})$/.exec(text) : null;
  return match && Number.isFinite(Date.parse(match[1]!)) ? { updatedAt: match[1]!, id: match[2]! } : undefined;
}

export function apiRoutes(db: Database, demo: DemoWorld): Router {
  const router = Router();
  router.use((_req, res, next) => {
    res.set('Cache-Control', 'no-store');
    next();
  });
  // What no id can be is not asked of the database.
  router.param('id', (_req, res, next, id: string) => {
    if (/^\P{Cc}{1,64}$/u.test(id)) next();
    else fail(res, 404, 'There is nothing at this address.');
  });
  fileRoutes(router, db);
  stripRoutes(router, db);
  router.use(json({ limit: MAX_FILE_BYTES, strict: true }));
  sharedRoutes(router, db);
  motifRoutes(router, db, demo.motifs);
  router.get('/health', (_req, res) => void res.json({ ok: true }));
  starterRoutes(router, demo);
  listRoutes(router, db, new Set(demo.stages.map((s) => s.id)));
  for (const format of ['effect', 'stage'] as const) {
    documentRoutes(router, db, format);
    revisionRoutes(router, db, format);
  }
  router.use((_req, res) => fail(res, 404, 'There is nothing at this address.'));
  router.use(answered);
  return router;
}

/** Files as they are, and bundles: what is large, and written down as it comes. */
function fileRoutes(router: Router, db: Database): void {
  const taking = <T>(req: Request, most: number, work: Parameters<typeof db.incoming.with<T>>[2]): Promise<T> => {
    // What says that it is too large is not waited for.
    if (Number(req.get('Content-Length') ?? 0) > most) throw new TooLarge(most);
    return db.incoming.with(req, most, work);
  };
  router.put('/assets/:sha', async (req: Request<{ sha: string }>, res) => {
    const { sha } = req.params;
    if (!isAssetName(sha)) return fail(res, 400, 'A file is stored under its SHA-256, 64 hexadecimal digits.');
    const why = await taking(req, MAX_ASSET_BYTES, (file) => db.assets.take(sha, file));
    if (why !== null) fail(res, 400, why);
    else res.status(201).json({ sha256: sha });
  });
  router.get('/assets/:sha', (req, res) => {
    if (!isAssetName(req.params.sha) || db.assets.path(req.params.sha) === null) return fail(res, 404, 'There is no such file.');
    res.set({ 'Content-Type': 'application/octet-stream', 'Content-Disposition': 'attachment' });
    // From its folder on: what is above it may be hidden, as the usual data folder is.
    res.sendFile(req.params.sha, { root: db.assets.folder, dotfiles: 'allow', immutable: true, maxAge: '1y' });
  });
  router.post('/bundles', async (req, res) => {
    const answer = await taking(req, MAX_BUNDLE_BYTES, (file) => takeBundle(db, file, clientOf(req)));
    if (answer.ok) res.status(201).json(answer);
    else fail(res, 400, answer.why);
  });
}

/** The Library's pictures. */
function stripRoutes(router: Router, db: Database): void {
  router.put(
    '/effects/:id/strip',
    raw({ type: () => true, limit: MAX_STRIP_BYTES }),
    async (req: Request<{ id: string }>, res) => {
      const key = await stripKey(req.params.id);
      if (key === null) return fail(res, 404, 'There is no effect with this address.');
      const bytes = req.body as Buffer;
      if (!Buffer.isBuffer(bytes) || !isWebp(bytes)) return fail(res, 400, 'A strip is a WebP image.');
      // Pictures of versions that have passed are of no use.
      if (req.query.key !== key) return fail(res, 409, 'The effect or its stage has changed since.');
      await db.write(() => StripRow.upsert({ documentId: req.params.id, key, bytes }));
      res.status(201).json({ key });
    },
  );
  /** Whose pictures are to be drawn, a few at a time: for whoever has time to draw them. */
  router.get('/strips/lacking', async (_req, res) => res.json(await lackingStrips(8)));
  router.get('/effects/:id/strip', async (req, res) => {
    const strip = await StripRow.findByPk(req.params.id);
    if (!strip || strip.key !== req.query.key) return fail(res, 404, 'There are no such pictures.');
    res.set({ 'Content-Type': 'image/webp', 'Cache-Control': 'private, max-age=31536000, immutable' }).send(strip.bytes);
  });
}

function starterRoutes(router: Router, demo: DemoWorld): void {
  router.get('/starters', (_req, res) => {
    res.json(demo.starters.map(({ id, name, note, tags }) => ({ id, name, note, tags })));
  });
  router.get('/starters/:id', (req, res) => {
    const effect = demo.starters.find((s) => s.id === req.params.id);
    if (!effect) return fail(res, 404, 'There is no such starter.');
    res.json({ effect, stage: demo.stages.find((s) => s.id === effect.home?.stage) ?? null });
  });
}

/** @param shipped stages of the demo world */
function listRoutes(router: Router, db: Database, shipped: ReadonlySet<string>): void {
  router.get('/effects', async (req, res) => {
    const after = req.query.after === undefined ? null : pageEnd(req.query.after);
    const most = req.query.most === undefined ? undefined : Number(req.query.most);
    if (after === undefined || (most !== undefined && !(Number.isInteger(most) && most > 0)))
      return fail(res, 400, 'A page of the list begins after one that was given, and has one effect or more.');
    const { cards, next } = await listEffects(after, most);
    // The rest of a list, as the web knows it (RFC 8288).
    if (next) {
      const address = new URLSearchParams({ after: `${next.updatedAt} ${next.id}`, ...(most ? { most: `${most}` } : {}) });
      res.links({ next: `/api/effects?${address}` });
    }
    res.json(cards);
  });
  router.get('/stages', async (_req, res) => {
    res.json(await listStages(shipped));
  });
  router.delete('/stages/:id', async (req, res) => {
    const why = await deleteStage(db, req.params.id, shipped);
    if (why !== null) return fail(res, 409, why);
    res.status(204).end();
  });
  router.put('/effects/:id/archived', async (req, res) => {
    const body = z.strictObject({ archived: z.boolean() }).safeParse(req.body);
    if (!body.success) return fail(res, 400, 'Say whether it is archived, true or false.');
    if (!(await archiveEffect(db, { id: req.params.id, ...body.data, shipped })))
      return fail(res, 404, 'There is no effect with this address.');
    res.json(body.data);
  });
}

function documentRoutes(router: Router, db: Database, format: DocumentFormat): void {
  const path = `/${format}s/:id`;
  router.get(path, async (req, res) => {
    const row = await DocumentRow.findOne({ where: { id: req.params.id, format } });
    if (!row) return fail(res, 404, `There is no ${format} with this address.`);
    res
      .set({ ETag: tag(row.version), 'Last-Modified': row.updatedAt.toUTCString() })
      .type('application/json')
      .send(row.document);
  });
  router.put(path, async (req: Request<{ id: string }>, res) => {
    const read = readSave(req, format);
    if ('status' in read) return fail(res, read.status, read.error, read.more);
    const answer = await saveDocument(db, { ...read, format, client: clientOf(req) }, (sha) => db.assets.path(sha) !== null);
    if (answer.outcome === 'used') return fail(res, 409, 'This saveId was used for a save of another document.');
    if (answer.outcome === 'lacking')
      return fail(
        res,
        422,
        `The ${format} refers to ${answer.lacking.length === 1 ? 'a file' : `${answer.lacking.length} files`} that the server does not have. It was not saved.`,
        { lacking: answer.lacking },
      );
    if (answer.outcome === 'missing') return fail(res, 404, `There is no ${format} with this address.`);
    res.set('ETag', tag(answer.version));
    if (answer.outcome === 'conflict')
      return fail(res, 412, 'It was changed elsewhere since you opened it.', {
        version: answer.version,
        document: JSON.parse(answer.document) as unknown,
      });
    res.status(answer.created ? 201 : 200).json({ version: answer.version, savedAt: answer.savedAt });
  });
}

function revisionRoutes(router: Router, db: Database, format: DocumentFormat): void {
  const path = `/${format}s/:id/revisions`;
  const there = (id: string) => DocumentRow.findOne({ where: { id, format }, attributes: ['id'] });
  const none = `The ${format} has no such revision.`;
  router.get(path, async (req: Request<{ id: string }>, res) => {
    if (!(await there(req.params.id))) return fail(res, 404, `There is no ${format} with this address.`);
    res.json(await listRevisions(req.params.id));
  });
  router.get(`${path}/:revision`, async (req: Request<{ id: string; revision: string }>, res) => {
    const { id, revision } = req.params;
    const text = (await there(id)) ? await revisionText(id, revisionOf(revision)) : null;
    if (text === null) return fail(res, 404, none);
    res.type('application/json').send(text);
  });
  router.put(`${path}/:revision`, async (req: Request<{ id: string; revision: string }>, res) => {
    const body = z.strictObject({ name: z.string().trim().min(1).max(120).nullable() }).safeParse(req.body);
    if (!body.success || whatIsUnwholesome(req.body) !== null)
      return fail(res, 400, 'A name of a revision has 1 to 120 characters; null takes it away.');
    const { id, revision } = req.params;
    const named = (await there(id))
      ? await nameRevision(db, { documentId: id, id: revisionOf(revision), name: body.data.name })
      : null;
    if (!named) return fail(res, 404, none);
    res.json(named);
  });
}

type DocumentFormat = 'effect' | 'stage';
type Save = Omit<Parameters<typeof saveDocument>[1], 'format' | 'client'>;
interface Refused {
  readonly status: number;
  readonly error: string;
  readonly more?: object;
}

/** What a save asks for, or why it cannot be done. */
function readSave(req: Request<{ id: string }>, format: DocumentFormat): Save | Refused {
  const body = saveBody.safeParse(req.body);
  if (!body.success) return { status: 400, error: 'A save carries a saveId and a document.' };
  const creates = req.get('If-None-Match') === '*';
  const base = creates ? null : versionOf(req.get('If-Match'));
  if (base === undefined) return { status: 428, error: 'A save says which version it began from, in If-Match.' };
  const read = READERS[format](body.data.document);
  if (!read.ok) return { status: 400, error: read.problems[0]!.message, more: { problems: read.problems } };
  // What is short as it was sent may be long as it is written.
  if (Buffer.byteLength(read.text) > MAX_FILE_BYTES)
    return {
      status: 413,
      error: `Written out, the ${format} is larger than ${MAX_FILE_BYTES / 1048576} MB, the most that is stored.`,
    };
  if (read.id !== req.params.id)
    return { status: 400, error: `The document has the id ${read.id}, the address says ${req.params.id.slice(0, 64)}.` };
  return { id: read.id, name: read.name, document: read.text, saveId: body.data.saveId, keeps: body.data.keeps, base };
}

/** What a request could not do, as a sentence. */
const answered: ErrorRequestHandler = (error: Error & { status?: number; type?: string; limit?: number }, _req, res, next) => {
  if (res.headersSent) return next(error);
  if (error instanceof TooLarge || error.type === 'entity.too.large') {
    // What is still on its way is not read.
    res.set('Connection', 'close');
    return fail(res, 413, `It is larger than ${Math.round(error.limit! / 1048576)} MB, the most that is stored.`);
  }
  if (error.type === 'entity.parse.failed') return fail(res, 400, 'The request is not JSON.');
  if (error.status && error.status < 500) return fail(res, error.status, 'The request cannot be read.');
  if (isLocked(error)) {
    // Whoever saves tries again by itself.
    res.set('Retry-After', '1');
    return fail(res, 503, 'Another program holds the database; nothing was changed. It is tried again.');
  }
  const disk = diskTrouble(error);
  console.error(disk ?? error);
  fail(res, disk ? 507 : 500, disk ? `${disk} Nothing was changed.` : 'The server could not do this; nothing was changed.');
};
