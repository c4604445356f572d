/** The HTTP interface to documents and starters. */
import { Router, json, raw, type NextFunction, type Request, type Response } from 'express';
import { z } from 'zod';
import { readEffect, type Problem } from '../core/effect/read.js';
import { MAX_FILE_BYTES, sharedSchema } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { MAX_BUNDLE_BYTES } from '../core/formats/bundle.js';
import { readStage, writeStage } from '../core/formats/stage.js';
import { MAX_ASSET_BYTES, isAssetName } from './assets.js';
import { takeBundle } from './bundles.js';
import { listEffects, listStages, stripKey } from './cards.js';
import { DocumentRow, SharedRow, StripRow, type Database } from './database.js';
import type { DemoWorld } from './demo.js';
import { saveDocument, type Format } from './documents.js';

const MAX_STRIP_BYTES = 2 * 1024 * 1024;
const isWebp = (bytes: Buffer) => bytes.toString('latin1', 0, 4) === 'RIFF' && bytes.toString('latin1', 8, 12) === 'WEBP';

const saveBody = z.strictObject({ saveId: z.string().min(8).max(64), document: z.unknown() });

type Read =
  | { readonly ok: true; readonly id: string; readonly name: string; readonly text: string }
  | { readonly ok: false; readonly problems: readonly Problem[] };

const READERS: Record<Format, (parsed: unknown) => Read> = {
  effect: (parsed) => {
    const result = readEffect(parsed);
    return result.ok ? { ok: true, id: result.effect.id, name: result.effect.name, text: writeEffect(result.effect) } : result;
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

function fail(res: Response, status: number, error: string, more: object = {}): void {
  res.status(status).json({ error, ...more });
}

export function apiRoutes(db: Database, demo: DemoWorld): Router {
  const router = Router();
  router.use((_req, res, next) => {
    res.set('Cache-Control', 'no-store');
    next();
  });
  router.put('/assets/:sha', raw({ type: () => true, limit: MAX_ASSET_BYTES }), async (req: Request<{ sha: string }>, res) => {
    if (!isAssetName(req.params.sha)) return fail(res, 400, 'A file is stored under its SHA-256, 64 hexadecimal digits.');
    const why = Buffer.isBuffer(req.body) ? await db.assets.store(req.params.sha, req.body) : 'There is no file in the request.';
    if (why !== null) fail(res, 400, why);
    else res.status(201).json({ sha256: req.params.sha });
  });
  router.get('/assets/:sha', (req, res) => {
    const path = isAssetName(req.params.sha) ? db.assets.path(req.params.sha) : null;
    if (path === null) return fail(res, 404, 'There is no such file.');
    res.set({ 'Content-Type': 'application/octet-stream', 'Content-Disposition': 'attachment' });
    res.sendFile(path, { immutable: true, maxAge: '1y', cacheControl: true });
  });
  router.put(
    '/effects/:id/strip',
    raw({ type: () => true, limit: MAX_STRIP_BYTES }),
    async (req: Request<{ id: string }>, res) => {
      const row = await DocumentRow.findOne({ where: { id: req.params.id, format: 'effect' } });
      if (!row) return fail(res, 404, 'There is no effect with this address.');
      const bytes = req.body as Buffer;
      if (!Buffer.isBuffer(bytes) || !isWebp(bytes)) return fail(res, 400, 'A strip is a WebP image.');
      const key = await stripKey(row);
      // Pictures of versions that have passed are of no use.
      if (req.query.key !== key) return fail(res, 409, 'The effect or its stage has changed since.');
      await db.write(() => StripRow.upsert({ documentId: row.id, key, bytes }));
      res.status(201).json({ key });
    },
  );
  router.get('/effects/:id/strip', async (req, res) => {
    const strip = await StripRow.findByPk(req.params.id);
    if (!strip || strip.key !== req.query.key) return fail(res, 404, 'There are no such pictures.');
    res.set({ 'Content-Type': 'image/webp', 'Cache-Control': 'private, max-age=31536000, immutable' }).send(strip.bytes);
  });
  router.post('/bundles', raw({ type: () => true, limit: MAX_BUNDLE_BYTES }), async (req, res) => {
    const bytes: unknown = req.body;
    if (!Buffer.isBuffer(bytes)) return fail(res, 400, 'There is no bundle in the request.');
    const answer = await takeBundle(db, bytes, clientOf(req));
    if (answer.ok) res.status(201).json(answer);
    else fail(res, 400, answer.why);
  });
  router.use(json({ limit: MAX_FILE_BYTES, strict: true }));
  router.get('/shared', async (_req, res) => {
    const rows = await SharedRow.findAll({ order: ['name'] });
    res.json(rows.map(({ id, name, value }) => ({ id, name, value: JSON.parse(value) as unknown })));
  });
  router.put('/shared/:id', json({ limit: '64kb' }), async (req: Request<{ id: string }>, res) => {
    const read = sharedSchema.safeParse(req.body);
    if (!read.success || read.data.id !== req.params.id)
      return fail(res, 400, 'A shared dial is an id, a name and a value of a kind that effects know.');
    const { id, name, value } = read.data;
    await db.write(() => SharedRow.upsert({ id, name, value: JSON.stringify(value) }));
    res.json({ ok: true });
  });

  router.get('/health', (_req, res) => void res.json({ ok: true }));

  router.get('/starters', (_req, res) => {
    res.json(demo.starters.map(({ id, name, note, tags }) => ({ id, name, note, tags })));
  });
  router.get('/starters/:id', (req, res) => {
    const effect = demo.starters.find((s) => s.id === req.params.id);
    if (!effect) return fail(res, 404, 'There is no such starter.');
    res.json({ effect, stage: demo.stages.find((s) => s.id === effect.home?.stage) ?? null });
  });

  router.get('/effects', async (_req, res) => void res.json(await listEffects()));
  router.get('/stages', async (_req, res) => {
    res.json(await listStages());
  });
  router.put('/effects/:id/archived', async (req, res) => {
    const body = z.strictObject({ archived: z.boolean() }).safeParse(req.body);
    if (!body.success) return fail(res, 400, 'Say whether it is archived, true or false.');
    const row = await DocumentRow.findOne({ where: { id: req.params.id, format: 'effect' } });
    if (!row) return fail(res, 404, 'There is no effect with this address.');
    // Not a change of the effect: its time of change stays.
    await db.write(() => row.update({ archived: body.data.archived }, { silent: true }));
    res.json(body.data);
  });

  for (const format of ['effect', 'stage'] as const) {
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
      const body = saveBody.safeParse(req.body);
      if (!body.success) return fail(res, 400, 'A save carries a saveId and a document.');
      const creates = req.get('If-None-Match') === '*';
      const base = creates ? null : versionOf(req.get('If-Match'));
      if (base === undefined) return fail(res, 428, 'A save says which version it began from, in If-Match.');
      const read = READERS[format](body.data.document);
      if (!read.ok) return fail(res, 400, read.problems[0]!.message, { problems: read.problems });
      if (read.id !== req.params.id)
        return fail(res, 400, `The document has the id ${read.id}, the address says ${req.params.id.slice(0, 64)}.`);
      const answer = await saveDocument(db, {
        id: read.id,
        format,
        name: read.name,
        document: read.text,
        saveId: body.data.saveId,
        client: clientOf(req),
        base,
      });
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

  router.use((_req, res) => fail(res, 404, 'There is nothing at this address.'));
  router.use((error: Error & { status?: number; type?: string }, _req: Request, res: Response, next: NextFunction) => {
    if (res.headersSent) return next(error);
    if (error.type === 'entity.too.large') {
      const most = Math.round((error as { limit?: number }).limit! / 1048576);
      return fail(res, 413, `It is larger than ${most} MB, the most that is stored.`);
    }
    if (error.type === 'entity.parse.failed') return fail(res, 400, 'The request is not JSON.');
    if (error.status && error.status < 500) return fail(res, error.status, 'The request cannot be read.');
    console.error(error);
    fail(res, 500, 'The server could not do this; nothing was changed.');
  });
  return router;
}
