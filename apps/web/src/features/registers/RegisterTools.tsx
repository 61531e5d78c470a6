import { ActionIcon, Button, Checkbox, Popover, SegmentedControl } from '@mantine/core';
import { IconChevronDown, IconFilter } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import type { RegisterDocument } from '@ypomet/contract';
import { describeOutline, makeWording, parseExpression, readOutlineGroup } from '@ypomet/core';
import { FindInput } from '../../shared/FindInput.tsx';
import { ViewsMenu } from '../views/ViewsMenu.tsx';
import { columnsOf } from './columns.ts';
import { ExportMenu } from './ExportMenu.tsx';
import { registerViewsQuery, useViews } from './queries.ts';
import classes from './Register.module.css';
import { type Layout, type Shown, withColumn, withMoved } from './register-state.ts';
import { useRegisterStyle } from './use-register-style.ts';

type Props = {
  readonly register: RegisterDocument;
  readonly shown: Shown;
  readonly onShow: (shown: Shown) => void;
  readonly isFiltering: boolean;
  readonly onFiltering: (isFiltering: boolean) => void;
};

const LAYOUTS: readonly { readonly value: Layout; readonly label: string }[] = [
  { value: 'list', label: 'List' },
  { value: 'stages', label: 'By stage' },
  { value: 'watching', label: 'Watching' },
];

/** How a register is laid out, narrowed, kept and taken away as a file. */
export function RegisterTools({ register, shown, onShow, isFiltering, onFiltering }: Props) {
  const isWatching = shown.layout === 'watching';
  return (
    <div className={classes.tools}>
      <SegmentedControl
        size="xs"
        aria-label="How it is laid out"
        data={[...LAYOUTS]}
        value={shown.layout}
        onChange={(layout) => onShow({ ...shown, layout: layout as Layout })}
      />
      {!isWatching && (
        <>
          <FindInput
            label="Find in numbers, names and texts"
            className={classes.find ?? ''}
            find={shown.find}
            onFind={(find) => onShow({ ...shown, find })}
          />
          <Button
            size="xs"
            variant={shown.filter === '' ? 'default' : 'light'}
            leftSection={<IconFilter size={14} aria-hidden="true" />}
            aria-expanded={isFiltering}
            onClick={() => onFiltering(!isFiltering)}
          >
            Filter
          </Button>
          {!isFiltering && shown.filter !== '' && (
            <span className={classes.sentence}>
              <FilterInWords register={register} filter={shown.filter} />
            </span>
          )}
          <span className={classes.spring} />
          <ColumnsMenu register={register} shown={shown} onShow={onShow} />
          <RegisterViews register={register} shown={shown} onShow={onShow} />
          <ExportMenu register={register} shown={shown} />
        </>
      )}
    </div>
  );
}

function RegisterViews({ register, shown, onShow }: Pick<Props, 'register' | 'shown' | 'onShow'>) {
  const { key } = register.definition;
  const { keep, drop, fault } = useViews(key);
  const { layout } = shown;
  return (
    <ViewsMenu
      query={useQuery(registerViewsQuery(key))}
      settings={layout === 'watching' ? null : { ...shown, layout }}
      sharedWith="for all who see this register"
      isKeeping={keep.isPending}
      fault={fault}
      onTake={onShow}
      onKeep={(request, onSuccess) => keep.mutate(request, { onSuccess })}
      onDrop={(id) => drop.mutate(id)}
    />
  );
}

/** The filter as a sentence; its text where it is none that can be said. */
function FilterInWords({ register, filter }: { readonly register: RegisterDocument; readonly filter: string }) {
  const style = useRegisterStyle({});
  const parsed = parseExpression(filter);
  const names = new Map(register.members.map(({ id, name }) => [id, name]));
  const wording = makeWording(register.definition, { ...style, nameOf: (id) => names.get(id) ?? null });
  return parsed.ok ? describeOutline(readOutlineGroup(parsed.value), wording) : filter;
}

/** Which columns are shown, and in which order. */
function ColumnsMenu({ register, shown, onShow }: Pick<Props, 'register' | 'shown' | 'onShow'>) {
  const all = columnsOf(register);
  const ordered = [
    ...shown.columns.flatMap((id) => all.find((column) => column.id === id) ?? []),
    ...all.filter(({ id }) => !shown.columns.includes(id)),
  ];
  return (
    <Popover position="bottom-end" withinPortal trapFocus returnFocus>
      <Popover.Target>
        <Button size="xs" variant="default" rightSection={<IconChevronDown size={13} aria-hidden="true" />}>
          Columns
        </Button>
      </Popover.Target>
      <Popover.Dropdown className={classes.columns}>
        <ul aria-label="Columns" className={classes.entries ?? ''}>
          {ordered.map(({ id, name, field }) => {
            const at = shown.columns.indexOf(id);
            return (
              <li key={id}>
                <Checkbox
                  size="xs"
                  label={field?.name ?? name}
                  checked={at >= 0}
                  onChange={({ currentTarget: { checked } }) => onShow(withColumn(shown, id, checked))}
                />
                {at >= 0 && (
                  <span>
                    <ActionIcon
                      size={24}
                      variant="subtle"
                      aria-label={`Move ${name} earlier`}
                      disabled={at === 0}
                      onClick={() => onShow(withMoved(shown, id, -1))}
                    >
                      ↑
                    </ActionIcon>
                    <ActionIcon
                      size={24}
                      variant="subtle"
                      aria-label={`Move ${name} later`}
                      disabled={at === shown.columns.length - 1}
                      onClick={() => onShow(withMoved(shown, id, 1))}
                    >
                      ↓
                    </ActionIcon>
                  </span>
                )}
              </li>
            );
          })}
        </ul>
      </Popover.Dropdown>
    </Popover>
  );
}
