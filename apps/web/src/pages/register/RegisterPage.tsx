import { Select } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { RegisterDocument } from '@ypomet/contract';
import { lazy, Suspense, useState } from 'react';
import { Link, Navigate, useNavigate, useParams, useSearchParams } from 'react-router';
import { intakesQuery } from '../../features/records/queries.ts';
import { useChanges } from '../../features/records/use-changes.ts';
import { ownRegistersQuery, registerQuery } from '../../features/registers/queries.ts';
import classes from '../../features/registers/Register.module.css';
import { RegisterList } from '../../features/registers/RegisterList.tsx';
import { RegisterStages } from '../../features/registers/RegisterStages.tsx';
import { RegisterTools } from '../../features/registers/RegisterTools.tsx';
import { readAddress, type Shown, writeAddress } from '../../features/registers/register-state.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import { Notice } from '../../shared/Notice.tsx';
import { PanelBoundary } from '../../shared/PanelBoundary.tsx';

// The condition editor and the charts come when they are opened.
const FilterPanel = lazy(async () => ({ default: (await import('../../features/registers/FilterPanel.tsx')).FilterPanel }));
const Watching = lazy(async () => ({ default: (await import('../../features/registers/Watching.tsx')).Watching }));

/** Who is here: whoever answers for many records. First they want to find some of them, or to see where they wait. */
export function RegisterPage() {
  const { workflow } = useParams();
  const registers = useQuery(ownRegistersQuery);
  return (
    <Loaded query={registers} rows={8}>
      {(list) => {
        const [first] = list;
        if (!first)
          return (
            <main className={classes.page}>
              <Notice tone="calm" title="There is no register that you may see">
                A role has a right to a register where the workflow’s plan gives it one.
              </Notice>
            </main>
          );
        if (!workflow) return <Navigate to={`/registers/${first.workflow}`} replace />;
        return <Register key={workflow} workflow={workflow} registers={list} />;
      }}
    </Loaded>
  );
}

type Registers = readonly { readonly workflow: string; readonly name: string }[];

function Register({ workflow, registers }: { readonly workflow: string; readonly registers: Registers }) {
  const query = useQuery(registerQuery(workflow));
  return (
    <main className={classes.page}>
      <Loaded query={query} rows={8}>
        {(register) => <OpenRegister register={register} registers={registers} />}
      </Loaded>
    </main>
  );
}

function OpenRegister({ register, registers }: { readonly register: RegisterDocument; readonly registers: Registers }) {
  const [address, setAddress] = useSearchParams();
  const shown = readAddress(address, register);
  const [isFiltering, setFiltering] = useState(false);
  const { key } = register.definition;
  const client = useQueryClient();
  useChanges({ workflow: key }, () => {
    for (const what of ['records', 'totals', 'watching']) void client.invalidateQueries({ queryKey: ['register', key, what] });
  });
  const onShow = (next: Shown): void => setAddress(writeAddress(next, register), { replace: next.layout === shown.layout });
  return (
    <>
      <header className={classes.head}>
        <h1>{register.definition.name}</h1>
        <Begin workflow={key} />
        <OtherRegisters register={register} registers={registers} />
      </header>
      <RegisterTools {...{ register, shown, onShow, isFiltering }} onFiltering={setFiltering} />
      {isFiltering && shown.layout !== 'watching' && (
        <Suspense fallback={<p className={classes.soft}>The filter opens …</p>}>
          <FilterPanel register={register} filter={shown.filter} onFilter={(filter) => onShow({ ...shown, filter })} />
        </Suspense>
      )}
      <PanelBoundary name="The register" resetKey={shown.layout}>
        {shown.layout === 'list' && <RegisterList register={register} shown={shown} onShow={onShow} />}
        {shown.layout === 'stages' && <RegisterStages register={register} shown={shown} />}
        {shown.layout === 'watching' && (
          <Suspense fallback={<p className={classes.soft}>The charts are drawn …</p>}>
            <Watching register={register} onShow={(more) => onShow({ ...shown, ...more, layout: 'list' })} />
          </Suspense>
        )}
      </PanelBoundary>
    </>
  );
}

/** The ways to begin records of the register, many at once, for those who may. */
function Begin({ workflow }: { readonly workflow: string }) {
  const { data = [] } = useQuery(intakesQuery);
  const own = data.filter((intake) => intake.workflow === workflow);
  if (own.length === 0) return null;
  return (
    <nav aria-label="Begin records">
      {own.map(({ stage, name }) => (
        <Link key={stage} to={`/begin/${workflow}/${stage}/many`}>
          {own.length === 1 ? '+ Begin many from a sheet' : `+ Begin many from a sheet: ${name}`}
        </Link>
      ))}
    </nav>
  );
}

/** The registers, this one in front: more of them than fit side by side are chosen from a list. */
function OtherRegisters({ register, registers }: { readonly register: RegisterDocument; readonly registers: Registers }) {
  const navigate = useNavigate();
  const others = registers.filter(({ workflow }) => workflow !== register.definition.key);
  if (others.length === 0) return null;
  if (others.length <= MOST_LINKS)
    return (
      <nav aria-label="Other registers">
        {others.map(({ workflow, name }) => (
          <Link key={workflow} to={`/registers/${workflow}`}>
            {name}
          </Link>
        ))}
      </nav>
    );
  return (
    <Select
      size="xs"
      aria-label="Another register"
      placeholder="Another register"
      searchable
      data={others.map(({ workflow, name }) => ({ value: workflow, label: name }))}
      value={null}
      onChange={(key) => key !== null && navigate(`/registers/${key}`)}
    />
  );
}

const MOST_LINKS = 4;
