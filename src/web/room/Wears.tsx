/** What a prop wears: any effect of the library, in any of its variants, or nothing; and what parts of it wear by themselves. */
import { dressProp, joinPart } from '../../core/scene/edits.js';
import { strandsOf } from '../../core/effect/schema.js';
import { WHOLE, namedParts, partIn, partOf, pieceName, pieceOf, propIn } from '../../core/scene/pieces.js';
import type { Prop } from '../../core/scene/stage.js';
import { whoWears } from '../../core/scene/wearing.js';
import { useBench, useBenchState } from '../context.js';
import { useEffects } from '../data/library.js';
import { usePartNames } from '../stage/usePartNames.js';
import { SelectRow } from '../ui/SettingRow.js';

const BARE = '-';
const REST = '';

export function Wears({ prop }: { prop: Prop }) {
  const parts = usePartNames(prop);
  return (
    <>
      <Piece prop={prop} id={prop.id} name="Wears" />
      {parts.length > 0 && (
        <section aria-label={`Parts of ${prop.name}`} className="my-1 border-l border-line pl-3">
          <h3 className="text-[12px] leading-5 text-muted" title="By the materials of its file">
            {parts.length} parts
          </h3>
          {parts.map(({ name, there }) => (
            <div key={name}>
              <Piece prop={prop} id={pieceOf(prop.id, name)} name={name} />
              {!there && <p className="text-[12px] leading-4 text-caution">Its mesh has no part of this name.</p>}
            </div>
          ))}
        </section>
      )}
    </>
  );
}

/** @param id of the piece */
function Piece({ prop, id, name }: { prop: Prop; id: string; name: string }) {
  const { documents, compiling } = useBench();
  const effects = useEffects();
  const here = useBenchState((s) => s.effect);
  const stage = useBenchState((s) => s.stage);
  const part = partIn(id);
  const called = pieceName(stage, id);
  const own = part === WHOLE || namedParts(prop).some((p) => p.part === part);
  const worn = whoWears(stage, here).find((w) => w.prop === id);
  const effect = worn?.effect ?? partOf(prop, part)?.effect ?? null;
  const known = effect === null ? null : effect === here.id ? here : compiling.other(effect);
  const surfaces = (effects.data ?? []).filter((e) => e.kind === 'surface' && (!e.archived || e.id === effect));
  const choices = [
    ...(part === WHOLE ? [] : [{ id: REST, name: 'as the rest' }]),
    { id: BARE, name: 'nothing' },
    ...surfaces.map((e) => ({ id: e.id, name: e.name })),
  ];
  const gone = effect !== null && !choices.some((c) => c.id === effect);
  const choose = (to: string) => {
    if (to === REST)
      return documents.editStage(`${called} as the rest of ${stage.props.find((p) => p.id === propIn(id))!.name}`, (d) =>
        joinPart(d, { id }),
      );
    documents.editStage(to === BARE ? `Bare ${called}` : `Dress ${called}`, (d) =>
      dressProp(d, { id, effect: to === BARE ? null : to }),
    );
  };
  return (
    <>
      <SelectRow
        name={name}
        label={`${called} wears`}
        value={own ? (effect ?? BARE) : REST}
        choices={gone ? [...choices, { id: effect, name: known?.name ?? 'an effect that is gone' }] : choices}
        onChoose={choose}
      />
      {known && known.variants.length > 0 && strandsOf(known).length > 0 && (
        <SelectRow
          name="Variant"
          label={`${called} variant`}
          value={worn?.variant ?? ''}
          choices={[{ id: '', name: 'Base' }, ...known.variants]}
          onChoose={(variant) =>
            documents.editStage(`Dress ${called}`, (d) =>
              dressProp(d, { id, effect: known.id, variant: variant === '' ? null : variant }),
            )
          }
        />
      )}
    </>
  );
}
