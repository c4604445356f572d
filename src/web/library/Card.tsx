/** A card of the Library: the effect's pictures, still until it is pointed at or focused, and what can be done with it. */
import { Archive, ArchiveRestore, Copy, Ellipsis } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { renameEffect } from '../../core/effect/edits.js';
import { bundleFile, download, duplicateEffect } from '../../session/exports.js';
import { editStored } from '../../session/stored.js';
import { STRIP_ACROSS, STRIP_DOWN, STRIP_FRAMES, STRIP_SPAN } from '../../session/stripShape.js';
import { setArchived, type EffectCard } from '../data/library.js';
import { MenuContent } from '../ui/Menu.js';

interface Props {
  readonly effect: EffectCard;
  /** The strip that may be shown, or null while it is being drawn. */
  readonly strip: string | null;
  /** Runs something that may be refused, and lists the effects anew after it. */
  readonly onDo: (work: () => Promise<unknown>) => void;
}

const still = () => matchMedia('(prefers-reduced-motion: reduce)').matches;

/** The frames, moved by hand: sixty state changes a second have no place in React. */
function Pictures({ strip, span, playing }: { strip: string | null; span: number; playing: boolean }) {
  const picture = useRef<HTMLDivElement>(null);
  const line = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = (part: number) => {
      const frame = Math.floor(part * STRIP_FRAMES) % STRIP_FRAMES;
      if (!picture.current || !line.current) return;
      picture.current.style.backgroundPosition = `${((frame % STRIP_ACROSS) / (STRIP_ACROSS - 1)) * 100}% ${(Math.floor(frame / STRIP_ACROSS) / (STRIP_DOWN - 1)) * 100}%`;
      picture.current.dataset.frame = String(frame);
      line.current.style.transform = `scaleX(${part})`;
    };
    show(0);
    if (!playing || strip === null || still()) return;
    const began = performance.now();
    let queued = 0;
    const step = () => {
      show((((performance.now() - began) / 1000) % span) / span);
      queued = requestAnimationFrame(step);
    };
    step();
    return () => {
      cancelAnimationFrame(queued);
      show(0);
    };
  }, [playing, strip, span]);
  return (
    <span className="relative block h-[144px] overflow-hidden rounded-t-[5px] bg-base">
      <span
        ref={picture}
        data-testid="strip"
        className="absolute inset-0"
        style={
          strip === null
            ? {}
            : { backgroundImage: `url("${strip}")`, backgroundSize: `${STRIP_ACROSS * 100}% ${STRIP_DOWN * 100}%` }
        }
      />
      {strip === null && (
        <span className="absolute bottom-2 left-3 text-[12px] leading-4 text-muted">Its pictures are being drawn</span>
      )}
      <span
        ref={line}
        className={`absolute right-0 bottom-0 left-0 h-0.5 origin-left bg-wisp ${playing && strip !== null ? '' : 'invisible'}`}
        style={{ transform: 'scaleX(0)' }}
      />
    </span>
  );
}

type Editing = 'name' | 'tags' | null;

/** Tags as they are typed, with commas between. */
const tagsFrom = (typed: string): string[] =>
  [
    ...new Set(
      typed
        .split(',')
        .map((t) => t.trim().toLowerCase().slice(0, 40))
        .filter(Boolean),
    ),
  ].slice(0, 32);

export function Card({ effect, strip, onDo }: Props) {
  const [playing, setPlaying] = useState(false);
  const [editing, setEditing] = useState<Editing>(null);
  const { id, name, loop } = effect;
  return (
    <li
      data-effect={id}
      className="group relative h-[204px] w-[min(296px,100%)] rounded-md border border-line bg-panel focus-within:border-edge focus-within:bg-raised hover:border-edge hover:bg-raised"
      onPointerEnter={() => setPlaying(true)}
      onPointerLeave={() => setPlaying(false)}
      onFocus={() => setPlaying(true)}
      onBlur={(e) => !e.currentTarget.contains(e.relatedTarget) && setPlaying(false)}
    >
      <Link to={`/effects/${id}`} className="block h-full rounded-md" aria-label={name}>
        <Pictures strip={strip} span={loop ?? STRIP_SPAN} playing={playing} />
      </Link>
      <Words effect={effect} editing={editing} onDone={() => setEditing(null)} onDo={onDo} />
      <Buttons effect={effect} editing={editing} onEdit={setEditing} onDo={onDo} />
    </li>
  );
}

/** Name, length and tags; name and tags may be edited in place. */
function Words({ effect, editing, onDone, onDo }: Pick<Props, 'effect' | 'onDo'> & { editing: Editing; onDone: () => void }) {
  const { id, name, tags, loop } = effect;
  const rename = (typed: string) => {
    if (typed.trim() && typed.trim() !== name) onDo(() => editStored(id, (draft) => renameEffect(draft, { name: typed })));
  };
  const retag = (typed: string) => {
    const wanted = tagsFrom(typed);
    if (wanted.join() !== tags.join()) onDo(() => editStored(id, (draft) => void (draft.tags = wanted)));
  };
  return (
    <div className="pointer-events-none absolute right-3 bottom-0 left-3 h-[58px]">
      <div className="flex h-8 items-center justify-between gap-3">
        {editing === 'name' ? (
          <Field label={`Name of ${name}`} value={name} most={120} onKeep={rename} onDone={onDone} />
        ) : (
          <span className="head truncate text-[14px] leading-5">{name}</span>
        )}
        <span className="num shrink-0 text-muted">{loop === null ? 'runs on' : `${loop.toFixed(1)} s`}</span>
      </div>
      <div className="flex h-5 items-center text-[12px] leading-4 text-muted">
        {editing === 'tags' ? (
          <Field
            label={`Tags of ${name}, with commas between`}
            value={tags.join(', ')}
            most={1000}
            onKeep={retag}
            onDone={onDone}
          />
        ) : (
          <span className="truncate">{tags.join(', ') || 'no tags yet'}</span>
        )}
      </div>
    </div>
  );
}

function Field({
  label,
  value,
  most,
  onKeep,
  onDone,
}: {
  label: string;
  value: string;
  most: number;
  onKeep: (typed: string) => void;
  onDone: () => void;
}) {
  return (
    <span className="pointer-events-auto grow">
      <input
        className="field h-6 w-full px-1"
        aria-label={label}
        autoFocus
        defaultValue={value}
        maxLength={most}
        onFocus={(e) => e.currentTarget.select()}
        onBlur={(e) => {
          onKeep(e.currentTarget.value);
          onDone();
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key === 'Escape') {
            // What is left now is not kept.
            e.currentTarget.value = value;
            onDone();
          }
        }}
      />
    </span>
  );
}

const CHIP = 'stage-chip pointer-events-auto h-7 w-7 justify-center px-0';

/** Shown on hover and on focus, and always where nothing can hover. */
function Buttons({
  effect: { id, name, archived },
  editing,
  onEdit,
  onDo,
}: Pick<Props, 'effect' | 'onDo'> & { editing: Editing; onEdit: (what: Editing) => void }) {
  const Put = archived ? ArchiveRestore : Archive;
  const save = async () => {
    const { name: file, bytes } = await bundleFile(id);
    download(file, new Blob([bytes], { type: 'application/zip' }));
  };
  return (
    <div className="pointer-events-none absolute top-2 right-2 flex gap-1 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 has-[[data-state=open]]:opacity-100 pointer-coarse:opacity-100">
      <button className={CHIP} aria-label={`Duplicate ${name}`} title="Duplicate" onClick={() => onDo(() => duplicateEffect(id))}>
        <Copy size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className={CHIP}
        aria-label={archived ? `Restore ${name}` : `Archive ${name}`}
        title={archived ? 'Restore' : 'Archive: it can be restored'}
        onClick={() => onDo(() => setArchived(id, !archived))}
      >
        <Put size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <button className={CHIP} aria-label={`More for ${name}`}>
            <Ellipsis size={14} strokeWidth={1.5} aria-hidden />
          </button>
        </DropdownMenu.Trigger>
        <MenuContent
          align="end"

          onCloseAutoFocus={(e) => editing !== null && e.preventDefault()}
        >
          <DropdownMenu.Item className="menu-item" onSelect={() => onEdit('name')}>
            Rename
          </DropdownMenu.Item>
          <DropdownMenu.Item className="menu-item" onSelect={() => onEdit('tags')}>
            Edit tags
          </DropdownMenu.Item>
          <DropdownMenu.Item className="menu-item" onSelect={() => onDo(save)}>
            Save as a bundle
          </DropdownMenu.Item>
        </MenuContent>
      </DropdownMenu.Root>
    </div>
  );
}
