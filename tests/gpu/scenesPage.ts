/** In a page: scenes evaluated without a screen, beside a stage that is shown through the same context. */
import type { Picture } from '../../src/core/base/picture.js';
import { readEffect } from '../../src/core/effect/read.js';
import type { Effect } from '../../src/core/effect/schema.js';
import { Materials } from '../../src/core/scene/materials.js';
import { readStage, type Stage } from '../../src/core/scene/stage.js';
import { WornOnStage } from '../../src/core/scene/worn.js';
import { OpenScene, type SceneAssets, type SceneRequest, type Shot } from '../../src/render/evaluate.js';
import { Graphics, HiddenGraphics } from '../../src/render/graphics.js';
import { SceneQueue } from '../../src/render/queue.js';
import { StageRenderer } from '../../src/render/renderer.js';

const ASSETS: SceneAssets = {
  mesh: () => Promise.reject(new Error('none')),
  paint: () => Promise.reject(new Error('no paint here')),
  picture: () => Promise.reject(new Error('none')),
  panorama: () => Promise.resolve(null),
  pictures: new Map<string, Picture>(),
};
const newGraphics = () => new Graphics(document.createElement('canvas'));
const graphics = newGraphics();

function readBoth(given: { stage: unknown; effect: unknown }): { stage: Stage; effect: Effect } {
  const [s, e] = [readStage(given.stage), readEffect(given.effect)];
  if (!s.ok || !e.ok) throw new Error([...(s.ok ? [] : s.problems), ...(e.ok ? [] : e.problems)].map((p) => p.message).join());
  return { stage: s.stage, effect: e.effect };
}

export interface Given {
  readonly stage: unknown;
  readonly effect: unknown;
  readonly more?: Omit<SceneRequest, 'documents' | 'assets'>;
  readonly shot: Shot;
}
const requestOf = ({ more, ...given }: Given): SceneRequest => ({
  documents: { ...readBoth(given), others: new Map() },
  assets: ASSETS,
  ...more,
});

/** One kind of what a scene gives, through the shared context or one of its own. */
export async function give(kind: 'picture' | 'light' | 'numbers', given: Given, alone = false): Promise<number[]> {
  const through = alone ? newGraphics() : graphics;
  const scene = await OpenScene.open(through, requestOf(given));
  try {
    return [...(await scene[kind](given.shot))];
  } finally {
    scene.dispose();
    if (alone) through.dispose();
  }
}

/**
 * A picture is taken while another stage is shown through the same context, is turned, resized and drawn again and again.
 * @returns the picture, and what the canvas holds before and after, drawn the same way
 */
export async function takenMeanwhile(
  shown: { stage: unknown; effect: unknown },
  given: Given,
): Promise<{ picture: number[]; before: string; after: string; draws: number }> {
  const { stage, effect } = readBoth(shown);
  const renderer = new StageRenderer(graphics);
  renderer.resize({ width: 120, height: 90 });
  renderer.setStage(stage);
  renderer.looking.from(stage.viewpoints[0]!);
  const worn = new WornOnStage(new Materials(ASSETS.pictures)).update(stage, new Map([[effect.id, effect]]), effect);
  await renderer.dressing.dress(worn);
  const draw = (time: number) => {
    renderer.dressing.fill(stage, time, ASSETS.pictures);
    renderer.frame.draw({ adapt: false });
    return graphics.canvas.toDataURL();
  };
  const before = draw(0.25);
  const scene = await OpenScene.open(graphics, requestOf(given));
  let draws = 0;
  const picture = await scene.picture(given.shot, () => {
    renderer.resize({ width: 100 + draws, height: 80 });
    draw(draws++);
    return Promise.resolve();
  });
  scene.dispose();
  renderer.resize({ width: 120, height: 90 });
  const after = draw(0.25);
  renderer.dispose();
  return { picture: [...picture], before, after, draws };
}

/** A still that is not wanted any more, while another is. @returns how it ended, and how many samples were drawn of it */
export async function leftOff(given: Given): Promise<{ why: string; samples: number; other: number }> {
  const queue = new SceneQueue();
  const leaving = new AbortController();
  let samples = 0;
  const running = queue.run(
    async (turn) => {
      const scene = await OpenScene.open(graphics, requestOf(given));
      try {
        return await scene.picture(given.shot, (done) => {
          samples = done;
          if (done === 3) leaving.abort(new Error('left'));
          return turn.next();
        });
      } finally {
        scene.dispose();
      }
    },
    { priority: 'idle', signal: leaving.signal },
  );
  const why = await running.then(
    () => 'came',
    (error: Error) => error.message,
  );
  const other = await queue.run(() => give('picture', { ...given, shot: { ...given.shot, samples: 1 } }), { priority: 'asked' });
  return { why, samples, other: other.length };
}

/** What the graphics card holds, as three counts it. */
export const held = () => ({ ...graphics.renderer.info.memory, programs: graphics.renderer.info.programs?.length });

/** A context is lost between two samples. @returns what is said, and the picture that the next one gives */
export async function lostMeanwhile(given: Given): Promise<{ said: string; next: number[] }> {
  const hidden = new HiddenGraphics();
  const loss = hidden.now.gl.getExtension('WEBGL_lose_context')!;
  const scene = await OpenScene.open(hidden.now, requestOf(given));
  const said = await scene
    .picture(given.shot, (done) => Promise.resolve(done === 1 ? loss.loseContext() : undefined))
    .then(
      () => '',
      (error: Error) => error.message,
    );
  scene.dispose();
  const again = await OpenScene.open(hidden.now, requestOf(given));
  const next = [...(await again.picture(given.shot))];
  again.dispose();
  hidden.dispose();
  return { said, next };
}
