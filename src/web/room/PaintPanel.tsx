/** The paint of a prop: its channels, the brush, what fills a channel, and how its values are spread. */
import { DropdownMenu } from 'radix-ui';
import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { CHANNELS, type Channel } from '../../core/paint/paint.js';
import { STROKES } from '../../core/paint/stroke.js';
import { CHANNEL_NAMES } from '../../core/scene/edits.js';
import { segmentsOf } from '../../core/scene/primitives.js';
import * as fills from '../../session/paintFills.js';
import { exportPainted } from '../../session/paintExport.js';
import { useBench, useBenchState } from '../context.js';
import { MenuContent } from '../ui/Menu.js';
import { NameField } from '../ui/NameField.js';
import { NumberField } from '../ui/NumberField.js';
import { SettingRow, SwitchRow } from '../ui/SettingRow.js';
import { Segments } from '../ui/Segments.js';
import { subdivide } from '../../session/subdividing.js';
import { usePainting } from './usePainting.js';

const AXES = ['x', 'y', 'z'] as const;

export function PaintPanel() {
  const { painting } = useBench();
  const prop = usePainting((s) => s.prop);
  const name = useBenchState((s) => s.stage.props.find((p) => p.id === prop)?.name ?? '');
  const tool = usePainting((s) => s.tool);
  return (
    <section aria-label={`Paint of ${name}`}>
      <div className="mb-2 flex items-center gap-2">
        <h2 className="head text-[14px] leading-5">Paint</h2>
        <span className="min-w-0 grow truncate text-muted">{name}</span>
        <button className="button min-h-6" onClick={() => painting.end()} title="Esc">
          Done
        </button>
      </div>
      <Channels />
      <Seeing />
      <Segments
        label="What a press does"
        className="mt-2"
        value={tool}
        choices={[
          { id: 'brush', name: 'brush' },
          { id: 'line', name: 'two points', title: 'A ramp from the first to the second' },
          { id: 'pick', name: 'vertices', title: 'Picks vertices, to be given a value' },
        ]}
        onChoose={(next) => painting.change({ tool: next })}
      />
      {tool === 'brush' && <BrushRows />}
      {tool === 'line' && <Between />}
      {tool === 'pick' && <Picked />}
      <FillRows />
      <Values />
    </section>
  );
}

function Channels() {
  const { painting } = useBench();
  const channel = usePainting((s) => s.channel);
  const prop = usePainting((s) => s.prop);
  const names = useBenchState((s) => s.stage.props.find((p) => p.id === prop)?.channels ?? CHANNEL_NAMES);
  const [naming, setNaming] = useState(false);
  return (
    <div className="flex gap-1.5" role="group" aria-label="Channels">
      {CHANNELS.map((letter, k) =>
        naming && k === channel ? (
          <span key={letter} className="flex w-[62px] items-center">
            <NameField
              label={`Name of the channel ${letter.toUpperCase()}`}
              was={names[k]!}
              onName={(typed) => {
                setNaming(false);
                painting.nameChannel(k as Channel, typed);
              }}
              onLeave={() => setNaming(false)}
            />
          </span>
        ) : (
          <button
            key={letter}
            aria-pressed={k === channel}
            aria-label={`Channel ${letter.toUpperCase()}, ${names[k]}`}
            title={k === channel ? 'Rename' : undefined}
            className={`w-[62px] rounded-md border px-2 py-0.5 text-left ${k === channel ? 'border-edge bg-raised' : 'border-line hover:border-edge'}`}
            onClick={() => (k === channel ? setNaming(true) : painting.change({ channel: k as Channel }))}
          >
            <span className="num block">{letter.toUpperCase()}</span>
            <span className={`block truncate text-[12px] leading-4 ${k === channel ? '' : 'text-muted'}`}>{names[k]}</span>
          </button>
        ),
      )}
    </div>
  );
}

function Seeing() {
  const { painting } = useBench();
  const view = usePainting((s) => s.view);
  return (
    <Segments
      label="How it is seen"
      className="mt-2"
      value={view}
      choices={[
        { id: 'grey', name: 'one in grey' },
        { id: 'colour', name: 'all in colour' },
        { id: 'effect', name: 'off', title: 'The effect, as it reads the paint' },
      ]}
      onChoose={(next) => painting.change({ view: next })}
    />
  );
}

function BrushRows() {
  const { painting } = useBench();
  const brush = usePainting((s) => s.brush);
  const mirrored = usePainting((s) => s.mirrored);
  const row = (label: string, key: 'value' | 'strength' | 'falloff') => (
    <SettingRow
      label={label}
      value={brush[key]}
      soft={[0, 1]}
      hard={[0, 1]}
      step={0.05}
      onChange={(v) => painting.setBrush({ [key]: v })}
      onDone={() => undefined}
    />
  );
  return (
    <div className="mt-2">
      <Segments
        label="The brush"
        value={brush.kind}
        choices={STROKES.map((kind) => ({ id: kind, name: kind }))}
        onChoose={(kind) => painting.setBrush({ kind })}
      />
      {row('Value', 'value')}
      <SettingRow
        label="Radius"
        value={Number(brush.radius.toPrecision(3))}
        unit="m"
        soft={[0.01, 1]}
        hard={[0.0001, 1000]}
        step={0.01}
        onChange={(radius) => painting.setBrush({ radius })}
        onDone={() => undefined}
      />
      {row('Strength', 'strength')}
      {row('Falloff', 'falloff')}
      <SwitchRow label="Mirrored across x" on={mirrored} onChange={(on) => painting.change({ mirrored: on })} />
    </div>
  );
}

function Between() {
  const from = usePainting((s) => s.from);
  return (
    <p className="mt-2 min-h-8 text-[12px] leading-4 text-muted">
      {from
        ? `From ${from.map((v) => v.toFixed(2)).join(', ')} m: press where it is 1.`
        : 'Press on the prop where it is 0, then where it is 1.'}
    </p>
  );
}

function Picked() {
  const { painting } = useBench();
  const picked = usePainting((s) => s.picked);
  const [value, setValue] = useState(1);
  return (
    <div className="mt-2 flex h-8 items-center gap-2">
      <span className="grow text-[12px] text-muted">
        <span className="num text-ink">{picked.length}</span> picked
      </span>
      <NumberField
        label="Value of the picked vertices"
        value={value}
        step={0.05}
        low={0}
        high={1}
        width={64}
        onChange={setValue}
        onDone={() => undefined}
        onEnter={() => painting.setPicked(value)}
      />
      <button className="button min-h-6" disabled={picked.length === 0} onClick={() => painting.setPicked(value)}>
        Set
      </button>
    </div>
  );
}

function FillRows() {
  const session = useBench();
  const { painting } = session;
  const { axis, from, to } = usePainting((s) => s.ramp);
  const end = (k: 0 | 1) => (
    <NumberField
      label={k === 0 ? 'Fill from' : 'Fill to'}
      value={Math.round((k === 0 ? from : to) * 1000) / 1000}
      unit="m"
      step={0.01}
      width={74}
      onChange={(v) => painting.setRamp(k === 0 ? { from: v } : { to: v })}
      onDone={() => undefined}
    />
  );
  return (
    <div className="-mx-4 mt-3 border-t border-line px-4 pt-2">
      <div className="flex h-8 items-center gap-2">
        <h3 className="head text-[13px]">Fill along</h3>
        <Segments
          label="Axis"
          value={AXES[axis]}
          choices={AXES.map((name) => ({ id: name, name }))}
          onChoose={(name) => painting.setRamp({ axis: AXES.indexOf(name) as 0 | 1 | 2 })}
        />
        <span className="grow" />
        <button className="button min-h-6" onClick={() => fills.alongAxis(painting, axis, from, to)}>
          Fill
        </button>
      </div>
      <div className="flex h-8 items-center gap-2">
        {end(0)}
        <span
          className="h-2.5 grow rounded-sm border border-line"
          style={{ background: 'linear-gradient(to right, #000, #fff)' }}
          aria-hidden
        />
        {end(1)}
      </div>
      <div className="mt-1 grid grid-cols-3 gap-2">
        <MoreFills />
        <button className="button px-1" onClick={() => fills.smoothAll(painting)}>
          Smooth all
        </button>
        <button className="button px-1" onClick={() => fills.invert(painting)}>
          Invert
        </button>
      </div>
    </div>
  );
}

/** What else fills a channel, and what becomes of the paint. */
function MoreFills() {
  const session = useBench();
  const { painting } = session;
  const extent = usePainting((s) => s.extent);
  const prop = usePainting((s) => s.prop);
  const isPrimitive = useBenchState(
    (s) => segmentsOf(s.stage.props.find((p) => p.id === prop)?.source ?? { asset: '' }).length > 0,
  );
  const size = Math.max(0.01, ...extent.map(([low, high]) => high - low));
  const [seed, setSeed] = useState(1);
  const strands = fills.strandsFor(session);
  const item = (name: string, act: () => void) => (
    <DropdownMenu.Item className="menu-item" onSelect={act}>
      {name}
    </DropdownMenu.Item>
  );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button className="button px-1">
          Fill from <ChevronDown size={13} strokeWidth={1.5} className="text-muted" aria-hidden />
        </button>
      </DropdownMenu.Trigger>
      <MenuContent align="start">
        {item('Distance from the picked vertices, or the middle', () => fills.fromDistance(painting, size / 2))}
        {item('Curvature: hollows 0, ridges 1', () => fills.fromCurvature(painting, size / 10))}
        {item('Openness: what light from everywhere reaches', () => void fills.fromOpenness(painting, size / 2))}
        {item('A random value for each connected part', () => {
          fills.randomPerPart(painting, seed);
          setSeed(seed + 1);
        })}
        {strands.length > 0 && (
          <DropdownMenu.Sub>
            <DropdownMenu.SubTrigger className="menu-item">A strand of what it wears</DropdownMenu.SubTrigger>
            <DropdownMenu.Portal>
              <DropdownMenu.SubContent className="menu" sideOffset={4} collisionPadding={8}>
                {strands.map(({ id, name }) => (
                  <DropdownMenu.Item key={id} className="menu-item" onSelect={() => fills.fromStrand(session, id)}>
                    {name}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.SubContent>
            </DropdownMenu.Portal>
          </DropdownMenu.Sub>
        )}
        <DropdownMenu.Separator className="my-1 h-px bg-line" />
        {item('Levels: the lowest becomes 0, the highest 1', () => {
          const { spread } = painting.store.getState();
          if (spread) fills.levels(painting, spread.low, spread.high, 1);
        })}
        {item('Lighten the middle', () => fills.levels(painting, 0, 1, 1.5))}
        {item('Darken the middle', () => fills.levels(painting, 0, 1, 1 / 1.5))}
        <DropdownMenu.Separator className="my-1 h-px bg-line" />
        {item(
          isPrimitive ? 'Subdivide: twice as many vertices each way' : 'Subdivide: four triangles for each',
          () => void subdivide(session),
        )}
        {item('Save as a mesh with this paint, .glb', () => void exportPainted(session))}
        {item('Take the paint off', () => fills.takeOff(session))}
      </MenuContent>
    </DropdownMenu.Root>
  );
}

function Values() {
  const spread = usePainting((s) => s.spread);
  const vertices = usePainting((s) => s.vertices);
  const under = usePainting((s) => s.under?.count ?? 0);
  if (!spread) return null;
  const most = Math.max(1, ...spread.bins);
  return (
    <div className="-mx-4 mt-3 border-t border-line px-4 pt-2">
      <div className="flex h-7 items-center justify-between">
        <h3 className="head text-[13px]">Values</h3>
        <span className="text-[12px] text-muted">
          <span className="num text-ink">{under}</span> of <span className="num text-ink">{vertices.toLocaleString('en')}</span>{' '}
          vertices under the brush
        </span>
      </div>
      <div
        className="mt-1 flex h-9 items-end gap-px border-b border-line"
        role="img"
        aria-label={`${spread.bins.join(', ')} vertices from 0 to 1`}
      >
        {spread.bins.map((count, k) => (
          <span
            key={k}
            className="grow"
            style={{
              height: `${count === 0 ? 0 : Math.max(2, 100 * Math.sqrt(count / most))}%`,
              background: `rgb(${[1, 1, 1].map(() => Math.round(56 + (199 * k) / (spread.bins.length - 1))).join()})`,
            }}
          />
        ))}
      </div>
      <div className="mt-0.5 flex justify-between text-[11px] text-muted">
        <span className="num">0</span>
        <span>
          mean{' '}
          <span className="num text-ink" data-testid="paint-mean">
            {spread.mean.toFixed(2)}
          </span>
        </span>
        <span className="num">1</span>
      </div>
    </div>
  );
}
