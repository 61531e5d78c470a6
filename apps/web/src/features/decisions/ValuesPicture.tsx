import { Select, UnstyledButton } from '@mantine/core';
import {
  type Atom,
  type Axes,
  type Axis,
  axisOf,
  type Basis,
  type CompiledHandOff,
  fieldsRead,
  findStage,
  type Json,
  joinWays,
  rowsOf,
  type Value,
  type Way,
  type WhichWay,
  waysAlong,
  writeFieldValue,
} from '@ypomet/core';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { useWording } from '../conditions/use-place.ts';
import { useDraft } from '../drafts/draft-context.tsx';
import { useRehearsalBasis, useRehearseAt } from '../rehearsal/rehearsal-context.tsx';
import { extentWords } from './extents.ts';
import classes from './ValuesPicture.module.css';

type Picture = WhichWay & { readonly across: Axis; readonly down: Axis | null };

/** How long one has to pause before a picture is made. */
const PAUSE_MS = 150;

/**
 * The picture of two fields, made row by row once one pauses, so that nothing waits for it. Null while there is none, and where
 * there would be too many pairs; until a new one is made the last is shown.
 */
function usePicture(
  basis: Basis,
  handOff: CompiledHandOff,
  held: Held,
  across: Axis | undefined,
  down: Axis | undefined,
): { readonly shown: Picture | null; readonly isTooMany: boolean } {
  const [shown, setShown] = useState<Picture | null>(null);
  const isTooMany = across !== undefined && across.atoms.length * (down?.atoms.length ?? 1) > MAX_PAIRS;
  useEffect(() => {
    if (!across || isTooMany) return;
    const axes: Axes = { across, down: down ?? null };
    const others = new Map([...held].filter(([field]) => field !== across.field && field !== down?.field));
    const left = [...rowsOf(axes)];
    const ways: (readonly Way[])[] = [];
    let timer: ReturnType<typeof setTimeout>;
    const next = (): void => {
      const row = left.shift();
      if (row === undefined) setShown({ ...joinWays(axes, ways), across, down: down ?? null });
      else {
        ways.push(waysAlong(basis, handOff, others, axes, row));
        timer = setTimeout(next, 0);
      }
    };
    timer = setTimeout(next, PAUSE_MS);
    return () => clearTimeout(timer);
  }, [basis, handOff, held, across, down, isTooMany]);
  return { shown: across && !isTooMany ? shown : null, isTooMany };
}

/** Pairs that are tried out at once; a picture of more can't be read either. */
const MAX_PAIRS = 1500;
const AS_IS = 'rehearsal';

type Held = ReadonlyMap<string, Value>;

/**
 * Which values go where: over two fields, cut at the constants that the branches name, each pair handed on as a record of its own.
 * The other fields are held at chosen values, or are as the rehearsal's record has them.
 */
export function ValuesPicture({ handOff }: { readonly handOff: CompiledHandOff }) {
  const { definition, compiled } = useDraft();
  const basis = useRehearsalBasis();
  const wording = useWording();
  const navigate = useNavigate();
  const rehearseAt = useRehearseAt();
  const { environment } = basis.given;
  const axes = useMemo(
    () => fieldsRead(compiled, handOff).flatMap(({ field }) => axisOf(compiled, handOff, field.key, environment) ?? []),
    [compiled, handOff, environment],
  );
  const [chosen, setChosen] = useState<{ readonly across: string | null; readonly down: string | null }>({
    across: null,
    down: null,
  });
  const [held, setHeld] = useState<Held>(new Map());
  const [picked, setPicked] = useState<{ readonly row: number; readonly column: number } | null>(null);
  const across = axes.find(({ field }) => field === chosen.across) ?? axes[0];
  const down =
    chosen.down === ''
      ? undefined
      : (axes.find(({ field }) => field === chosen.down && field !== across?.field) ?? axes.find((one) => one !== across));
  const { shown: picture, isTooMany } = usePicture(basis, handOff, held, across, down);
  if (!across)
    return (
      <p className={classes.soft}>
        No field is read whose values could be laid out. Branches that compare fields with values show here which values go where.
      </p>
    );
  const nameOf = (field: string): string => wording.nameOf([field]);
  const numbers = new Map(handOff.branches.map(({ branch }, index) => [branch.key, { number: index + 1, branch }]));
  const words = (way: Way): string => {
    if (way.kind === 'branch') return String(numbers.get(way.branch)?.number ?? '');
    if (way.kind === 'clash') return way.branches.map((key) => numbers.get(key)?.number).join(' + ');
    return way.kind === 'none' ? 'nowhere' : 'otherwise';
  };
  const told = (way: Way): string => {
    const stage = (key: string | undefined): string => (key === undefined ? '' : (findStage(definition, key)?.name ?? key));
    if (way.kind === 'branch') {
      const found = numbers.get(way.branch)?.branch;
      return `${found?.name ?? way.branch}, to ${stage(found?.to)}`;
    }
    if (way.kind === 'otherwise') return `otherwise, to ${stage(handOff.handOff.otherwise?.to)}`;
    return way.kind === 'none' ? 'no branch takes it: refused' : 'two branches hold where one may: refused';
  };
  const others = axes.filter((axis) => axis !== across && axis !== down);
  const fields = axes.map(({ field }) => ({ value: field, label: nameOf(field) }));
  const stretch = (axis: Axis | null, atom: Atom | undefined): string =>
    axis && atom ? extentWords(atom.extent, [axis.field], wording) : '';
  const way = picked && picture?.ways[picked.row]?.[picked.column];
  const rehearse = (): void => {
    if (!picked || !picture) return;
    const values: Record<string, Json> = {};
    const put = (axis: Axis | null, atom: Atom | undefined): void => {
      const of = axis && compiled.forms.fieldByKey.get(axis.field);
      // What is computed follows from the rest; it can't be put in.
      if (of && !of.computes && atom) values[of.field.key] = writeFieldValue(of.field, atom.value);
    };
    put(picture.across, picture.columns[picked.column]);
    put(picture.down, picture.rows[picked.row]);
    rehearseAt(handOff.handOff.from, values);
    navigate(`/workflows/${definition.key}/rehearse`);
  };
  return (
    <section className={classes.picture} aria-label="Which values go where">
      <h3>Which values go where</h3>
      <div className={classes.choices}>
        <Select
          size="xs"
          label="Across"
          data={fields}
          value={across.field}
          allowDeselect={false}
          onChange={(field) => setChosen({ ...chosen, across: field })}
        />
        <Select
          size="xs"
          label="Down"
          data={[{ value: '', label: 'nothing' }, ...fields.filter(({ value }) => value !== across.field)]}
          value={down?.field ?? ''}
          allowDeselect={false}
          onChange={(field) => setChosen({ ...chosen, down: field ?? '' })}
        />
        {others.map((axis) => (
          <HeldAt key={axis.field} axis={axis} value={held} onHold={setHeld} />
        ))}
      </div>
      {picture ? (
        <div className={classes.scroll}>
          <table className={classes.table}>
            <thead>
              <tr>
                <td />
                {picture.columns.map(({ extent }, index) => (
                  <th key={String(index)} scope="col">
                    {extentWords(extent, [picture.across.field], wording)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {picture.ways.map((row, line) => (
                <tr key={String(line)}>
                  <th scope="row">{stretch(picture.down, picture.rows[line])}</th>
                  {row.map((one, column) => (
                    <td key={String(column)}>
                      <UnstyledButton
                        className={classes.way}
                        data-way={one.kind}
                        data-number={one.kind === 'branch' ? (numbers.get(one.branch)?.number ?? 0) % 4 : undefined}
                        data-picked={(picked?.row === line && picked.column === column) || undefined}
                        title={told(one)}
                        aria-label={told(one)}
                        onClick={() => setPicked({ row: line, column })}
                      >
                        {words(one)}
                      </UnstyledButton>
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        isTooMany && (
          <p className={classes.soft}>
            These two fields have more than {MAX_PAIRS} pairs of values that differ. Choose others, or one alone.
          </p>
        )
      )}
      {way && picked && picture && (
        <p className={classes.told} role="status">
          {nameOf(picture.across.field)} {stretch(picture.across, picture.columns[picked.column])}
          {picture.down && `, ${nameOf(picture.down.field)} ${stretch(picture.down, picture.rows[picked.row])}`}:{' '}
          <strong>{told(way)}</strong>{' '}
          <UnstyledButton className={classes.link} onClick={rehearse}>
            rehearse it
          </UnstyledButton>
        </p>
      )}
    </section>
  );
}

function HeldAt({ axis, value, onHold }: { readonly axis: Axis; readonly value: Held; readonly onHold: (held: Held) => void }) {
  const wording = useWording();
  const index = value.has(axis.field) ? axis.atoms.findIndex((atom) => atom.value === value.get(axis.field)) : -1;
  return (
    <Select
      size="xs"
      label={wording.nameOf([axis.field])}
      data={[
        { value: AS_IS, label: 'as in the rehearsal' },
        ...axis.atoms.map(({ extent }, own) => ({ value: String(own), label: extentWords(extent, [axis.field], wording) })),
      ]}
      value={index < 0 ? AS_IS : String(index)}
      allowDeselect={false}
      onChange={(chosen) => {
        const next = new Map(value);
        const atom = chosen === null || chosen === AS_IS ? undefined : axis.atoms[Number(chosen)];
        if (atom) next.set(axis.field, atom.value);
        else next.delete(axis.field);
        onHold(next);
      }}
    />
  );
}
