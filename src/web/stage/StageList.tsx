/** All stages: who stands where, which is somebody's own; renamed, copied, deleted where nobody stands. */
import { Copy, Pencil, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { deleteStage, duplicateStage, renameStage } from '../../session/stages.js';
import { useStages, type StageCard } from '../data/library.js';
import { NameField } from '../ui/NameField.js';
import { useBench, useBenchState } from '../context.js';

/** Names that are said before the rest is counted. */
const MOST_NAMED = 2;

export function StageList({ onChoose }: { onChoose: (id: string) => void }) {
  const session = useBench();
  const here = useBenchState((s) => s.stage.id);
  const hereName = useBenchState((s) => s.stage.name);
  const stages = useStages();
  const [naming, setNaming] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const done = (work: Promise<void>) => {
    setBusy(true);
    void work
      .catch((error: Error) => session.store.setState({ notice: error.message }))
      .then(() => stages.mutate())
      .then(() => setBusy(false));
  };
  const rename = (id: string, name: string) => {
    setNaming(null);
    if (name === '') return;
    // The one that is open is renamed like anything else of it: undo takes it back.
    if (id === here) session.documents.editStage('Rename the stage', (d) => void (d.name = name));
    else done(renameStage(id, name));
  };
  const remove = (stage: StageCard) =>
    session.choosing.ask({
      text: `Delete ${stage.name} for good?`,
      yes: 'Delete the stage',
      act: () => done(deleteStage(stage.id)),
    });
  return (
    <ul className="scroll mb-2 max-h-[440px] overflow-y-auto" aria-label="Stages" aria-busy={busy}>
      {(stages.data ?? []).map((s) => (
        <Row
          key={s.id}
          stage={s.id === here ? { ...s, name: hereName } : s}
          here={s.id === here}
          naming={naming === s.id}
          onNaming={(on) => setNaming(on ? s.id : null)}
          onName={(name) => rename(s.id, name)}
          onChoose={() => onChoose(s.id)}
          onDuplicate={() => done(duplicateStage(s.id))}
          onDelete={() => remove(s)}
        />
      ))}
    </ul>
  );
}

function users({ usedBy, own }: StageCard): string {
  if (usedBy.length === 0) return 'nobody stands there';
  if (own !== null && usedBy.length === 1) return `${usedBy[0]}’s own: archived with it`;
  const rest = usedBy.length - MOST_NAMED;
  return usedBy.slice(0, MOST_NAMED).join(', ') + (rest > 0 ? ` and ${rest} more` : '');
}

interface RowProps {
  readonly stage: StageCard;
  readonly here: boolean;
  readonly naming: boolean;
  readonly onNaming: (on: boolean) => void;
  readonly onName: (name: string) => void;
  readonly onChoose: () => void;
  readonly onDuplicate: () => void;
  readonly onDelete: () => void;
}

function Row({ stage, here, naming, onNaming, onName, onChoose, onDuplicate, onDelete }: RowProps) {
  const { name, deletable } = stage;
  return (
    <li className="flex h-11 items-center gap-1" data-stage={stage.id}>
      {naming ? (
        <NameField label="Name of the stage" was={name} onName={onName} onLeave={() => onNaming(false)} />
      ) : (
        <button
          className="min-w-0 grow rounded-sm px-1 text-left hover:bg-raised"
          aria-current={here ? 'true' : undefined}
          onClick={onChoose}
        >
          <span className={`block truncate leading-[18px] ${here ? 'font-medium' : ''}`}>{name}</span>
          <span className="block truncate text-[12px] leading-4 text-muted">{users(stage)}</span>
        </button>
      )}
      <button className="plain" aria-label={`Rename ${name}`} title="Rename" onClick={() => onNaming(true)}>
        <Pencil size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <button className="plain" aria-label={`Duplicate ${name}`} title="Duplicate" onClick={onDuplicate}>
        <Copy size={14} strokeWidth={1.5} aria-hidden />
      </button>
      <button
        className="plain"
        aria-label={`Delete ${name}`}
        title={deletable && !here ? 'Delete' : 'It is somebody’s stage, or came with Wispen: it stays'}
        disabled={!deletable || here}
        onClick={onDelete}
      >
        <Trash2 size={14} strokeWidth={1.5} aria-hidden />
      </button>
    </li>
  );
}
