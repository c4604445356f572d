/** Ways in which something may read a strand, offered at the place itself: to a new strand, and as a mend of kinds that do not go together. */
import { Link2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { strandOf } from '../../../core/effect/edits.js';
import { kindMends } from '../../../core/effect/feeding.js';
import { kindOfLink } from '../../../core/lower/program.js';
import { inputLabel } from '../../../core/operators/record.js';
import { read } from '../../../session/actions.js';
import { useBench, useBenchState } from '../../context.js';
import { MenuContent } from '../../ui/Menu.js';

/** A quiet chip in the row of a new strand that reads nothing by itself: what it may read of the one that was chosen. */
export function OfferChip({ id }: { id: string }) {
  const session = useBench();
  const offer = useBenchState((s) => (s.offer?.strand === id ? s.offer : null));
  const name = useBenchState((s) => (offer ? strandOf(s.effect, offer.from).name : ''));
  if (!offer) return null;
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          className="absolute top-1 left-[222px] z-10 flex h-5 max-w-[118px] items-center gap-1 rounded-sm border border-dashed border-edge bg-panel px-1.5 text-[12px] text-muted hover:text-ink"
          title={`Nothing of ${name} makes sense by itself. It may be read by…`}
        >
          <Link2 size={12} strokeWidth={1.5} className="shrink-0" aria-hidden />
          <span className="truncate">read {name}</span>
        </button>
      </DropdownMenu.Trigger>
      <MenuContent className="min-w-[180px]">
        <DropdownMenu.Label className="menu-label">Read {name} as</DropdownMenu.Label>
        {offer.ways.map((way) => (
          <DropdownMenu.Item
            key={`${way.input} ${way.text}`}
            className="menu-item"
            onSelect={() => read(session, { strand: id, input: way.input }, way)}
          >
            {inputLabel(way.input)}
            <span className="text-muted">{way.text}</span>
          </DropdownMenu.Item>
        ))}
        <DropdownMenu.Item className="menu-item" onSelect={() => session.store.setState({ offer: null })}>
          Nothing
        </DropdownMenu.Item>
      </MenuContent>
    </DropdownMenu.Root>
  );
}

/** One press each for what would set right that the kinds at a strand do not go together. */
export function KindMends({ id }: { id: string }) {
  const session = useBench();
  const effect = useBenchState((s) => s.effect);
  const program = useBenchState((s) => s.program);
  const mends = program ? kindMends(effect, id, (link) => kindOfLink(program, link)) : [];
  if (mends.length === 0) return null;
  return (
    <span className="mt-1 flex gap-1.5 overflow-hidden">
      {mends.slice(0, 3).map(({ label, reader, way }) => (
        <button key={label} className="button min-h-6 shrink-0 px-2 text-[12px]" onClick={() => read(session, reader, way)}>
          {label}
        </button>
      ))}
    </span>
  );
}
