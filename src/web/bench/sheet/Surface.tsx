/** The sheet's foot: what the surface receives, and its finish. */
import { Ellipsis } from 'lucide-react';
import { DropdownMenu, Popover } from 'radix-ui';
import { useState } from 'react';
import { widthOfKind } from '../../../core/base/kinds.js';
import { setFinish, setVariantFinish } from '../../../core/effect/edits.js';
import { isColour, isLink, strandsOf, type Effect, type Finish, type Input } from '../../../core/effect/schema.js';
import { OUTPUTS, outputRecord, type OutputName } from '../../../core/effect/outputs.js';
import { showNumber } from '../../ui/numbers.js';
import { cssColour } from '../../ui/colour.js';
import { Select } from '../../ui/Select.js';
import { SettingRow, SwitchRow } from '../../ui/SettingRow.js';
import { read, setOutputTo } from '../../../session/actions.js';
import { makeOfKind } from '../../../session/motes.js';
import { useBench, useBenchState } from '../../context.js';
import { outputPeek } from '../../../core/analysis/peek.js';
import { PeekButton } from '../PeekButton.js';
import { Swatch } from './Swatch.js';
import { waysInto } from '../../../core/effect/feeding.js';
import { MenuContent } from '../../ui/Menu.js';
import { PopoverContent } from '../../ui/PopoverContent.js';

const SIDE_NAMES: Record<Finish['sides'], string> = { front: 'one side', back: 'back side', both: 'two sides' };
/** What an output begins with that is given a value of its own. */
function startOf(name: OutputName): Input | undefined {
  const { start, kind } = outputRecord(name);
  if (!start) return undefined;
  const [r, g, b] = start as [number, number, number];
  return { value: kind === 'rgb' ? { rgb: [r, g, b], intensity: 1, unit: 'factor' } : r };
}

function Output({ name }: { name: OutputName }) {
  const session = useBench();
  const input = useBenchState((s) => s.effect.outputs[name]);
  const strands = useBenchState((s) => strandsOf(s.effect));
  const readings = useBenchState((s) => s.readings);
  const peeked = useBenchState((s) => s.peek?.of === outputPeek(name));
  const source = isLink(input) ? strands.find((s) => s.id === input.from) : undefined;
  const value = input && !isLink(input) ? input.value : undefined;
  const set = (next: Input | undefined) => setOutputTo(session, name, next);
  return (
    <div className="flex h-8 min-w-0 items-center gap-2 pr-2" data-output={name}>
      <span className="flex h-6 w-8 shrink-0">
        {source && (
          <PeekButton
            of={outputPeek(name)}
            name={outputRecord(name).label}
            className={`flex rounded-sm ${peeked ? 'outline outline-text' : ''}`}
          >
            <Swatch id={source.id} rate={readings.get(source.id)?.rate} label={outputRecord(name).label} />
          </PeekButton>
        )}
        {isColour(value) && (
          <span className="h-6 w-8 rounded-sm border border-line" style={{ background: cssColour(value.rgb) }} />
        )}
        {Array.isArray(value) && widthOfKind(outputRecord(name).kind) === 3 && (
          <span
            className="h-6 w-8 rounded-sm border border-line"
            style={{ background: cssColour(value as unknown as [number, number, number]) }}
          />
        )}
      </span>
      <span className={`min-w-[74px] shrink-0 ${input ? 'font-medium' : 'text-muted'}`}>{outputRecord(name).label}</span>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <button
            className={`chip min-h-6 max-w-[112px] min-w-0 px-1.5 ${source ? 'chip-strand' : 'border-transparent text-muted hover:border-line'}`}
            aria-label={`${outputRecord(name).label} reads ${source?.name ?? (input ? 'a value' : 'nothing')}`}
          >
            <span className="truncate">
              {source
                ? source.name + (isLink(input) && input.part ? `.${input.part}` : '')
                : typeof value === 'number'
                  ? showNumber(value)
                  : input
                    ? 'value'
                    : 'none'}
            </span>
          </button>
        </DropdownMenu.Trigger>
        <MenuContent className="min-w-[180px]">
          {input && (
            <DropdownMenu.Item className="menu-item" onSelect={() => set(undefined)}>
              None
            </DropdownMenu.Item>
          )}
          {!value && startOf(name) && (
            <DropdownMenu.Item className="menu-item" onSelect={() => set(startOf(name))}>
              A value of its own
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Label className="menu-label">Read a strand</DropdownMenu.Label>
          {[...strands].reverse().flatMap((s) =>
            waysInto(outputRecord(name), { from: s.id }, readings.get(s.id)?.kind ?? '1')
              .slice(0, 1)
              .map((way) => (
                <DropdownMenu.Item key={s.id} className="menu-item" onSelect={() => read(session, { output: name }, way)}>
                  {s.name}
                  {way.text !== '' && <span className="text-muted">{way.text}</span>}
                </DropdownMenu.Item>
              )),
          )}
        </MenuContent>
      </DropdownMenu.Root>
    </div>
  );
}

const MODES = [
  { id: 'opaque', name: 'opaque', hint: 'all of it' },
  { id: 'mask', name: 'mask', hint: 'there or not, by a threshold' },
  { id: 'dither', name: 'dither', hint: 'a share of its points' },
  { id: 'blend', name: 'blend', hint: 'see-through' },
  { id: 'add', name: 'add', hint: 'light on what is behind' },
];

/** What a finish usually goes with: see-through surfaces cast no solid shadow and hide nothing behind them. */
const finishFor = (alphaMode: Finish['alphaMode']): Partial<Finish> => {
  const solid = alphaMode !== 'blend' && alphaMode !== 'add';
  return { alphaMode, castsShadow: solid, writesDepth: solid };
};

const TAG = 'chip min-h-6 bg-raised px-2 text-muted hover:border-edge';

const KINDS: Readonly<Record<Effect['kind'], string>> = { surface: 'Surface', light: 'Light', mote: 'Mote' };

export function Surface() {
  const session = useBench();
  const outputs = useBenchState((s) => s.effect.outputs);
  const kind = useBenchState((s) => s.effect.kind);
  const [all, setAll] = useState(false);
  const names = OUTPUTS[kind];
  const ordered = [...names.filter((n) => outputs[n]), ...names.filter((n) => !outputs[n])];
  const shown = all ? ordered : ordered.slice(0, Math.max(3, names.filter((n) => outputs[n]).length));
  const rest = ordered.length - shown.length;
  return (
    <section aria-label={KINDS[kind]} className="shrink-0 border-t border-line pb-1.5">
      <div className="flex h-9 items-center justify-between pr-3 pl-11">
        <h2 className="sr-only">{KINDS[kind]}</h2>
        <Select
          label="What the effect is made for"
          className="plain head -ml-1 gap-1 px-1 text-[14px] leading-5 text-ink"
          value={kind}
          choices={(Object.keys(KINDS) as Effect['kind'][]).map((id) => ({ id, name: KINDS[id] }))}
          onChoose={(to) => to !== kind && makeOfKind(session, to as Effect['kind'])}
        />
        {kind !== 'light' && <FinishTags />}
      </div>
      <div className="grid grid-cols-2 pl-11">
        {shown.map((name) => (
          <Output key={name} name={name} />
        ))}
        {(rest > 0 || all) && (
          <button className="plain h-8 justify-self-start px-1" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? 'fewer' : `${rest} more`}
          </button>
        )}
      </div>
    </section>
  );
}

/** Changes the finish. @param mergeKey joins the steps of one drag */
function useFinish() {
  const { documents } = useBench();
  const base = useBenchState((s) => s.effect.finish);
  const variant = useBenchState((s) => s.effect.variants.find((v) => v.id === s.variant));
  const own = variant?.finish;
  const set = (label: string, change: Partial<Finish>, mergeKey: string | null = null) =>
    documents.edit(
      label,
      (draft) => (own ? setVariantFinish(draft, { id: variant.id, change }) : setFinish(draft, change)),
      mergeKey && `finish ${mergeKey}`,
    );
  const part = (on: boolean) =>
    documents.edit(on ? `A finish of its own for ${variant!.name}` : `${variant!.name} has the effect’s finish`, (draft) =>
      setVariantFinish(draft, { id: variant!.id, change: on ? {} : null }),
    );
  return { finish: { ...base, ...own }, set, variant, part, done: () => documents.endGesture() };
}

/** How the surface is drawn. */
function FinishTags() {
  const { finish, set } = useFinish();
  const kind = useBenchState((s) => s.effect.kind);
  const lighting = (
    <Select
      label="Lighting"
      bare
      className={TAG}
      value={finish.lighting}
      choices={[
        { id: 'lit', name: 'lit' },
        { id: 'unlit', name: 'unlit' },
      ]}
      onChoose={(v) => set('Lit or unlit', { lighting: v as Finish['lighting'] })}
    />
  );
  // Motes are added to what is behind them, or over it.
  if (kind === 'mote')
    return (
      <span className="flex gap-1.5">
        <Select
          label="Finish"
          bare
          className={TAG}
          value={finish.alphaMode === 'add' ? 'add' : 'blend'}
          choices={MODES.filter(({ id }) => id === 'add' || id === 'blend')}
          onChoose={(v) => set('Finish', { alphaMode: v as Finish['alphaMode'] })}
        />
        {lighting}
      </span>
    );
  return (
    <span className="flex gap-1.5">
      <Select
        label="Finish"
        bare
        className={TAG}
        value={finish.alphaMode}
        choices={MODES}
        onChoose={(v) => set('Finish', finishFor(v as Finish['alphaMode']))}
      />
      {lighting}
      <Select
        label="Sides"
        bare
        className={TAG}
        value={finish.sides}
        choices={(['front', 'back', 'both'] as const).map((id) => ({ id, name: SIDE_NAMES[id] }))}
        onChoose={(v) => set('Sides', { sides: v as Finish['sides'] })}
      />
      <button
        className={TAG}
        aria-pressed={finish.castsShadow}
        onClick={() => set('Shadow', { castsShadow: !finish.castsShadow })}
      >
        {finish.castsShadow ? 'casts shadow' : 'no shadow'}
      </button>
      <MoreFinish />
    </span>
  );
}

function MoreFinish() {
  const { finish, set, variant, part, done } = useFinish();
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className={`${TAG} px-1`} aria-label="More of the finish" title="Threshold of a mask, depth, draw order">
          <Ellipsis size={14} strokeWidth={1.5} aria-hidden />
        </button>
      </Popover.Trigger>
      <PopoverContent aria-label="Finish" className="w-[292px] p-4" side="top" align="end" sideOffset={6} collisionPadding={12}>
        <h3 className="head mb-1 text-[14px] leading-5">Finish</h3>
        {variant && <SwitchRow label={`${variant.name} has its own`} on={variant.finish !== undefined} onChange={part} />}
        {finish.alphaMode === 'mask' && (
          <SettingRow
            label="Mask threshold"
            value={finish.alphaCutoff}
            soft={[0, 1]}
            hard={[0, 1]}
            step={0.01}
            onChange={(v) => set('Mask threshold', { alphaCutoff: v }, 'cutoff')}
            onDone={done}
          />
        )}
        <SwitchRow
          label="Hides what is drawn behind it later"
          on={finish.writesDepth}
          onChange={(on) => set('Write depth', { writesDepth: on })}
        />
        <SettingRow
          label="Draw order"
          value={finish.order}
          soft={[-4, 4]}
          hard={[-1000, 1000]}
          step={1}
          onChange={(v) => set('Draw order', { order: Math.round(v) }, 'order')}
          onDone={done}
        />
        <p className="mt-1 text-[12px] leading-4 text-muted">
          See-through surfaces are drawn from the farthest to the nearest; a higher order goes after all lower ones.
        </p>
      </PopoverContent>
    </Popover.Root>
  );
}
