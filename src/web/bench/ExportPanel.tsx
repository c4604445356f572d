/** Export: what can be handed over, how large it is before it is written, and where it went. */
import { Check, Clipboard, Download, X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { writeEffect } from '../../core/effect/write.js';
import { shareText } from '../../core/export/shareText.js';
import { capture } from '../../session/capturing.js';
import { bundleOf, download, fileStem, zipped } from '../../session/exports.js';
import { STILL_SAMPLES } from '../../render/still.js';
import { Guarded } from '../ui/Guarded.js';
import { Select } from '../ui/Select.js';
import { useBench, useBenchState } from '../context.js';

const bytesText = (n: number) =>
  n < 1024 ? `${n} B` : n < 1048576 ? `${(n / 1024).toFixed(1)} KB` : `${(n / 1048576).toFixed(1)} MB`;

const SIZES = [
  { id: 'seen', name: 'As it is seen' },
  { id: '1920x1080', name: '1920 x 1080' },
  { id: '3840x2160', name: '3840 x 2160' },
];

function Row({ title, about, file, children }: { title: string; about: string; file: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={title} className="grid grid-cols-[1fr_auto] items-center gap-x-4 border-t border-line py-3">
      <div className="min-w-0">
        <h3 className="font-medium">{title}</h3>
        <p className="text-[12px] leading-4 text-muted">{about}</p>
        <p className="mt-1 truncate text-[12px] leading-4">{file}</p>
      </div>
      <div className="flex items-center gap-2">{children}</div>
    </section>
  );
}

function SaveButton({
  what,
  onSave,
  disabled = false,
  children = 'Save',
}: {
  what: string;
  onSave: () => void;
  disabled?: boolean;
  children?: ReactNode;
}) {
  return (
    <button className="button" disabled={disabled} onClick={onSave} aria-label={`Save ${what}`}>
      <Download size={14} strokeWidth={1.5} aria-hidden />
      {children}
    </button>
  );
}

/** What each row is given: the name files get, how one is saved, and how something is told. */
interface RowProps {
  readonly stem: string;
  readonly save: (name: string, content: BlobPart, type: string) => void;
  readonly tell: (sentence: string) => void;
}

function BundleRow({ stem, save }: RowProps) {
  const effect = useBenchState((s) => s.effect);
  const stage = useBenchState((s) => s.stage);
  const [bundle, setBundle] = useState<Uint8Array<ArrayBuffer> | null>(null);
  const [lacking, setLacking] = useState<string | null>(null);
  useEffect(() => {
    let current = true;
    setLacking(null);
    bundleOf(effect, stage)
      .then(zipped)
      .then(
        (b) => current && setBundle(b),
        (error: Error) => current && setLacking(error.message),
      );
    return () => {
      current = false;
    };
  }, [effect, stage]);
  return (
    <Row
      title="Bundle"
      about="The effect with its stage, the other effects on it and its meshes. Opens elsewhere to the same picture."
      file={
        lacking ?? (
          <>
            {stem}.wispen <span className="num text-muted">{bundle ? bytesText(bundle.byteLength) : '…'}</span>
          </>
        )
      }
    >
      <SaveButton
        what="bundle"
        onSave={() => save(`${stem}.wispen`, bundle!, 'application/zip')}
        disabled={bundle === null || lacking !== null}
      />
    </Row>
  );
}

function EffectRow({ stem, save }: RowProps) {
  const effect = useBenchState((s) => s.effect);
  const file = useMemo(() => new TextEncoder().encode(writeEffect(effect)), [effect]);
  return (
    <Row
      title="Effect file"
      about="The sheet, its dials and variants as text: for version control, and for the command line."
      file={
        <>
          {stem}.wispen.json <span className="num text-muted">{bytesText(file.byteLength)}</span>
        </>
      }
    >
      <SaveButton what="effect file" onSave={() => save(`${stem}.wispen.json`, file, 'application/json')} />
    </Row>
  );
}

function PictureRow({ stem, save, tell }: RowProps) {
  const session = useBench();
  const [size, setSize] = useState('seen');
  /** Samples that the picture being taken has; 0 while there is none. */
  const [sampled, setSampled] = useState(0);
  const seen = session.frames.view?.frame.pixels;
  const take = async (from: NonNullable<typeof seen>) => {
    const [width, height] = size === 'seen' ? [from.width, from.height] : size.split('x').map(Number);
    try {
      const png = await capture(session, { width: width!, height: height! }, STILL_SAMPLES, setSampled);
      save(`${stem}.png`, png, 'image/png');
    } catch (error) {
      tell((error as Error).message);
    } finally {
      setSampled(0);
    }
  };
  return (
    <Row
      title="Picture of the stage"
      about="The stage at this moment, with its optics, as a PNG."
      file={
        <>
          {stem}.png{' '}
          <span className="num text-muted">
            {size === 'seen' ? (seen ? `${seen.width} x ${seen.height}` : '') : size.replace('x', ' x ')}
          </span>
        </>
      }
    >
      <Select label="Size" value={size} choices={SIZES} onChoose={setSize} />
      <SaveButton what="picture" onSave={() => seen && void take(seen)} disabled={!seen || sampled > 0}>
        {sampled > 0 ? `${sampled} of ${STILL_SAMPLES}` : 'Save'}
      </SaveButton>
    </Row>
  );
}

function GlslRow({ stem, save, tell }: RowProps) {
  const effect = useBenchState((s) => s.effect);
  const shader = useMemo(() => shareText(effect), [effect]);
  const text = shader.ok ? shader.text : '';
  const copy = () =>
    void navigator.clipboard.writeText(text).then(
      () => tell('The GLSL is on the clipboard.'),
      () => tell('This browser does not let the page use the clipboard; save the file instead.'),
    );
  return (
    <>
      <Row
        title="GLSL"
        about="The generated vertex and fragment shader, GLSL ES 3.00, with every uniform explained."
        file={
          shader.ok ? (
            <>
              {stem}.glsl <span className="num text-muted">{text.split('\n').length} lines</span>
            </>
          ) : (
            shader.why
          )
        }
      >
        <button className="button" disabled={!shader.ok} onClick={copy}>
          <Clipboard size={14} strokeWidth={1.5} aria-hidden />
          Copy
        </button>
        <SaveButton what="GLSL" onSave={() => save(`${stem}.glsl`, text, 'text/plain')} disabled={!shader.ok} />
      </Row>
      {shader.ok && (
        <pre
          tabIndex={0}
          aria-label="Generated GLSL"
          className="scroll num max-h-[176px] overflow-auto rounded-md border border-line bg-base p-3 text-[10.5px] leading-4 text-muted"
        >
          {text}
        </pre>
      )}
    </>
  );
}

function Panel() {
  const stem = fileStem(useBenchState((s) => s.effect.name));
  const [done, setDone] = useState<string | null>(null);
  const row: RowProps = {
    stem,
    tell: setDone,
    save: (name, content, type) => {
      const blob = new Blob([content], { type });
      download(name, blob);
      setDone(`${name}, ${bytesText(blob.size)}, is with this browser's downloads.`);
    },
  };
  return (
    <>
      <BundleRow {...row} />
      <EffectRow {...row} />
      <PictureRow {...row} />
      <GlslRow {...row} />
      <p role="status" data-testid="exported" className="flex min-h-8 items-center gap-2 pt-2 text-[12px]">
        {done !== null && (
          <>
            <Check size={14} strokeWidth={1.5} className="text-muted" aria-hidden />
            {done}
          </>
        )}
      </p>
    </>
  );
}

export function ExportPanel() {
  const navigate = useNavigate();
  const id = useBenchState((s) => s.effect.id);
  const name = useBenchState((s) => s.effect.name);
  const { search } = useLocation();
  return (
    <Dialog.Root open onOpenChange={(open) => !open && void navigate(`/effects/${id}${search}`)}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-base/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 max-h-[90vh] w-[min(600px,calc(100vw-16px))] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-md border border-edge bg-panel px-5 pt-4 pb-2"
        >
          <div className="mb-3 flex items-center justify-between">
            <Dialog.Title className="head text-[15px] leading-5">Export {name}</Dialog.Title>
            <Dialog.Close asChild>
              <button className="plain" aria-label="Close">
                <X size={16} strokeWidth={1.5} aria-hidden />
              </button>
            </Dialog.Close>
          </div>
          <Guarded name="Export">
            <Panel />
          </Guarded>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
