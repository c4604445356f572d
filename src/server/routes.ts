/** The HTTP interface to documents and starters. */
import { Router, json, type NextFunction, type Request, type Response } from 'express';
import { z } from 'zod';
import { readEffect, type Problem } from '../core/effect/read.js';
import { MAX_FILE_BYTES } from '../core/effect/schema.js';
import { writeEffect } from '../core/effect/write.js';
import { readStage, writeStage } from '../core/formats/stage.js';
import type { Database } from './database.js';
import { DocumentRow } from './database.js';
import type { DemoWorld } from './demo.js';
import { saveDocument, type Format } from './documents.js';

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
  router.use(json({ limit: MAX_FILE_BYTES, strict: true }));
  router.get('/health', (_req, res) => void res.json({ ok: true }));

  router.get('/starters', (_req, res) => {
    res.json(demo.starters.map(({ id, name, note, tags }) => ({ id, name, note, tags })));
  });
  router.get('/starters/:id', (req, res) => {
    const starter = demo.starters.find((s) => s.id === req.params.id);
    if (starter) res.json(starter);
    else fail(res, 404, 'There is no such starter.');
  });

  router.get('/effects', async (_req, res) => {
    const rows = await DocumentRow.findAll({ where: { format: 'effect', archived: false }, order: [['updatedAt', 'DESC']] });
    res.json(
      rows.map((row) => {
        const { tags, loop, kind } = JSON.parse(row.document) as { tags: string[]; loop: number | null; kind: string };
        return { id: row.id, name: row.name, tags, loop, kind, version: row.version, updatedAt: row.updatedAt.toISOString() };
      }),
    );
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
        client: (req.get('X-Wispen-Client') ?? 'unknown').slice(0, 64),
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
    if (error.type === 'entity.too.large') return fail(res, 413, 'The document is larger than 4 MB, the most that is stored.');
    if (error.type === 'entity.parse.failed') return fail(res, 400, 'The request is not JSON.');
    if (error.status && error.status < 500) return fail(res, error.status, 'The request cannot be read.');
    console.error(error);
    fail(res, 500, 'The server could not do this; nothing was changed.');
  });
  return router;
}
