/** All stages, with a picture each: who stands there, and the way into the room of each. */
import { Copy, Plus, Trash2 } from 'lucide-react';
import { useEffect, useState, type CSSProperties } from 'react';
import { Link, useNavigate } from 'react-router';
import { deleteStage, duplicateStage, newStage } from '../../session/stages.js';
import { STRIP_ACROSS, STRIP_DOWN } from '../../session/stripShape.js';
import { useEffects, useStages, type StageCard } from '../data/library.js';
import { useStrips } from '../library/useStrips.js';
import { useStagePictures } from './useStagePictures.js';
import { Places } from '../ui/Places.js';
import { Wordmark } from '../ui/Wordmark.js';

export function StagesScreen() {
  const navigate = useNavigate();
  const stages = useStages();
  const effects = useEffects();
  const homes = new Set((stages.data ?? []).map((s) => s.home));
  const shown = effects.data?.filter((e) => homes.has(e.id));
  const stripOf = useStrips(shown);
  const pictureOf = useStagePictures((stages.data ?? []).flatMap((s) => (s.home === null ? [s.id] : [])));
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    document.title = 'Stages · Wispen';
  }, []);
  const done = (work: Promise<unknown>) => {
    setProblem(null);
    void work.catch((error: Error) => setProblem(error.message)).then(() => stages.mutate());
  };
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-12 shrink-0 items-center gap-6 border-b border-line bg-panel pr-3 pl-4 small:h-auto small:flex-wrap small:gap-x-4 small:gap-y-0">
        <Wordmark />
        <Places here="Stages" />
        <span className="grow" />
        <button className="button" onClick={() => done(newStage().then((id) => navigate(`/stages/${id}`)))}>
          <Plus size={14} strokeWidth={1.5} aria-hidden />
          New stage
        </button>
      </header>
      <main className="scroll grow overflow-y-auto p-6 pr-4 [scrollbar-gutter:stable] small:px-3">
        <h1 className="sr-only">Stages</h1>
        {(problem ?? stages.error?.message) && (
          <p role="alert" className="mb-4 border-l-2 border-fault py-1 pl-3 text-fault">
            {problem ?? stages.error?.message}
          </p>
        )}
        <ul className="flex flex-wrap gap-4" aria-label="Stages" aria-busy={!stages.data}>
          {(stages.data ?? []).map((stage) => {
            const home = shown?.find((e) => e.id === stage.home);
            return (
              <Card
                key={stage.id}
                stage={stage}
                picture={home ? strip(stripOf(home)) : whole(pictureOf(stage.id))}
                onDuplicate={() => done(duplicateStage(stage.id))}
                onDelete={() => done(deleteStage(stage.id))}
              />
            );
          })}
        </ul>
      </main>
    </div>
  );
}

interface Props {
  readonly stage: StageCard;
  readonly picture: CSSProperties;
  readonly onDuplicate: () => void;
  readonly onDelete: () => void;
}

/** The first frame of a strip. */
const strip = (url: string | null): CSSProperties =>
  url === null ? {} : { backgroundImage: `url("${url}")`, backgroundSize: `${STRIP_ACROSS * 100}% ${STRIP_DOWN * 100}%` };
const whole = (url: string | null): CSSProperties =>
  url === null ? {} : { backgroundImage: `url("${url}")`, backgroundSize: 'cover' };

function Card({ stage, picture, onDuplicate, onDelete }: Props) {
  const { id, name, usedBy, deletable } = stage;
  const [asked, setAsked] = useState(false);
  return (
    <li className="group relative w-[min(296px,100%)] rounded-md border border-line hover:border-edge" data-stage={id}>
      <Link to={`/stages/${id}`} className="block rounded-md">
        <span className="block h-[144px] rounded-t-[5px] bg-base" style={picture} />
        <span className="block px-3 pt-2 pb-2.5">
          <span className="block truncate font-medium">{name}</span>
          <span className="block truncate text-[12px] leading-4 text-muted" title={usedBy.join(', ')}>
            {usedBy.length === 0 ? 'nobody stands there' : usedBy.join(', ')}
          </span>
        </span>
      </Link>
      <span className="absolute right-2 bottom-2 flex rounded-md bg-panel opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 [@media(hover:none)]:opacity-100">
        {asked ? (
          <>
            <button className="button min-h-6" onClick={onDelete}>
              Delete for good
            </button>
            <button className="plain px-1" onClick={() => setAsked(false)}>
              Keep
            </button>
          </>
        ) : (
          <>
            <button className="plain" aria-label={`Duplicate ${name}`} title="Duplicate" onClick={onDuplicate}>
              <Copy size={14} strokeWidth={1.5} aria-hidden />
            </button>
            <button
              className="plain"
              aria-label={`Delete ${name}`}
              title={deletable ? 'Delete' : 'It is somebody’s stage, or came with Wispen: it stays'}
              disabled={!deletable}
              onClick={() => setAsked(true)}
            >
              <Trash2 size={14} strokeWidth={1.5} aria-hidden />
            </button>
          </>
        )}
      </span>
    </li>
  );
}
