/** The deck under the stage: dials, pulse and advice by turns, and the headroom gauge always. */
import { RadioGroup, Tabs } from 'radix-ui';
import { useState, type ReactNode } from 'react';
import { sharers } from '../../../core/scene/definitions.js';
import { pieceName, propIn } from '../../../core/scene/pieces.js';
import type { DialScope } from '../../../session/state.js';
import { saveAsVariant } from '../../../session/actions.js';
import { useBench, useBenchState } from '../../context.js';
import { Guarded } from '../../ui/Guarded.js';
import { CostPanel } from './CostPanel.js';
import { AdvicePanel, useFindings } from './AdvicePanel.js';
import { Dials } from './Dials.js';
import { Headroom } from './Headroom.js';
import { PulsePanel } from './PulsePanel.js';

function DeckTab({ value, children }: { value: string; children: ReactNode }) {
  return (
    <Tabs.Trigger
      value={value}
      className="relative flex h-9 items-center gap-1.5 rounded-sm px-0.5 focus-visible:outline-offset-[-2px] text-muted hover:text-ink data-[state=active]:font-medium data-[state=active]:text-ink data-[state=active]:after:absolute data-[state=active]:after:right-0 data-[state=active]:after:bottom-[-1px] data-[state=active]:after:left-0 data-[state=active]:after:h-0.5 data-[state=active]:after:bg-ink"
    >
      {children}
    </Tabs.Trigger>
  );
}

/** Whose values the dials turn, and keeping them under a name. */
function Scope() {
  const session = useBench();
  const scope = useBenchState((s) => s.scope);
  const variant = useBenchState((s) => s.effect.variants.find((v) => v.id === s.variant)?.name ?? 'Base');
  // Motes and lights have no prop of whose own a value could be.
  const prop = useBenchState((s) => (s.effect.kind === 'surface' ? pieceName(s.stage, s.prop) || null : null));
  const alike = useBenchState((s) => {
    const held = s.stage.props.find((p) => p.id === propIn(s.prop));
    return held ? sharers(s.stage, held).length : 0;
  });
  const own = useBenchState((s) => Object.keys(s.overrides).length);
  const [naming, setNaming] = useState(false);
  const choice = (value: DialScope, words: string, title: string) => (
    <RadioGroup.Item value={value} title={title} className="segment max-w-[130px] truncate">
      {words}
    </RadioGroup.Item>
  );
  return (
    <span className="flex items-center gap-2 text-[12px]">
      {prop !== null && (
        <RadioGroup.Root
          aria-label="What the dials turn"
          className="flex items-center gap-0.5"
          orientation="horizontal"
          value={scope}
          onValueChange={(value) => session.store.setState({ scope: value as DialScope })}
        >
          {choice('variant', variant, `Turning a dial changes ${variant}, wherever it is worn`)}
          {choice(
            'prop',
            `only ${prop}${own > 0 ? ` · ${own}` : ''}`,
            `Turning a dial changes ${prop}${alike > 0 ? ` and ${alike} that share with it` : ''} alone; ${own} of its dials differ from ${variant}`,
          )}
        </RadioGroup.Root>
      )}
      {naming ? (
        <input
          className="field h-6 w-[128px] px-1"
          aria-label="Name of the new variant"
          placeholder="Name of the variant"
          autoFocus
          maxLength={80}
          onBlur={() => setNaming(false)}
          onKeyDown={(e) => {
            const name = e.currentTarget.value.trim();
            if (e.key === 'Enter' && name) saveAsVariant(session, name);
            if (e.key === 'Enter' || e.key === 'Escape') setNaming(false);
          }}
        />
      ) : (
        <button
          className="button min-h-6"
          onClick={() => setNaming(true)}
          title="Keeps these values under a name, and puts it on the chosen prop"
        >
          Save as variant
        </button>
      )}
    </span>
  );
}

export function Deck() {
  const dials = useBenchState((s) => s.effect.dials.length);
  const links = useBenchState((s) => s.links);
  const sheet = useBenchState((s) => s.effect);
  // The count is of what happens; what merely can happen waits in the list.
  const findings = useFindings().filter((f) => f.level === 'caution');
  const [tab, setTab] = useState('dials');
  return (
    <section aria-label="Deck" className="h-full border-t border-line bg-panel">
      <Tabs.Root value={tab} onValueChange={setTab} className="flex h-full flex-col">
        <div className="flex h-9 shrink-0 items-center justify-between border-b border-line px-4 small:h-auto small:flex-wrap">
          <Tabs.List aria-label="Deck" className="flex items-center gap-5">
            <DeckTab value="dials">
              Dials <span className="num font-normal text-muted">{dials}</span>
            </DeckTab>
            <DeckTab value="pulse">Pulse</DeckTab>
            <DeckTab value="cost">Cost</DeckTab>
            <DeckTab value="advice">
              Advice
              {findings.length > 0 && (
                <span className="num flex h-4 min-w-4 items-center justify-center rounded-full bg-caution px-1 text-[10px] font-medium text-base">
                  {findings.length}
                </span>
              )}
            </DeckTab>
          </Tabs.List>
          <span className="flex items-center gap-4 small:py-1">
            <span
              className="text-[12px] whitespace-nowrap text-muted max-[1180px]:hidden"
              title="Programs linked. Changing a number never links one; changing the sheet does"
            >
              programs{' '}
              <span className="num text-ink" data-testid="links">
                {links}
              </span>
            </span>
            <Scope />
          </span>
        </div>
        <div className="flex min-h-0 grow small:max-[639px]:flex-col">
          <div className="min-w-0 grow small:h-[180px] small:shrink-0 small:basis-0 small:max-[639px]:basis-[180px]">
            <Tabs.Content value="dials" className="h-full">
              <Guarded name="Dials" keys={[sheet]}>
                <Dials />
              </Guarded>
            </Tabs.Content>
            <Tabs.Content value="pulse" className="h-full">
              <Guarded name="Pulse" keys={[sheet]}>
                <PulsePanel />
              </Guarded>
            </Tabs.Content>
            <Tabs.Content value="cost" className="h-full">
              <Guarded name="Cost" keys={[sheet]}>
                <CostPanel />
              </Guarded>
            </Tabs.Content>
            <Tabs.Content value="advice" className="h-full">
              <Guarded name="Advice" keys={[sheet]}>
                <AdvicePanel />
              </Guarded>
            </Tabs.Content>
          </div>
          <Guarded name="The gauge" keys={[sheet]}>
            <Headroom />
          </Guarded>
        </div>
      </Tabs.Root>
    </section>
  );
}
