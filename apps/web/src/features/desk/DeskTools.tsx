import { Button, Menu, SegmentedControl } from '@mantine/core';
import { IconFilter } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import type { DeskSettings } from '@ypomet/contract';
import { lazy, Suspense, useState } from 'react';
import { FindInput } from '../../shared/FindInput.tsx';
import { Loaded } from '../../shared/Loaded.tsx';
import { ViewsMenu } from '../views/ViewsMenu.tsx';
import classes from './DeskTools.module.css';
import { narrowedTo } from './desk-state.ts';
import { deskViewsQuery, deskWorkflowQuery, useDeskViews } from './queries.ts';

// The condition editor comes when somebody filters.
const FilterPanel = lazy(async () => ({ default: (await import('../registers/FilterPanel.tsx')).FilterPanel }));

type Props = {
  readonly shown: DeskSettings;
  readonly onShow: (shown: DeskSettings) => void;
  /** The workflows of which something waits. */
  readonly workflows: readonly { readonly key: string; readonly name: string }[];
};

/** How the desk is found through, ordered, filtered, and kept so. */
export function DeskTools({ shown, onShow, workflows }: Props) {
  const [isFiltering, setFiltering] = useState(false);
  const { keep, drop, fault } = useDeskViews();
  const views = useQuery(deskViewsQuery);
  const { workflow } = shown;
  return (
    <>
      <div className={classes.tools}>
        <FindInput label="Find by number or name" find={shown.find} onFind={(find) => onShow({ ...shown, find })} />
        <SegmentedControl
          size="xs"
          aria-label="In which order"
          data={[
            { value: 'arrived', label: 'longest waiting' },
            { value: 'due', label: 'due first' },
          ]}
          value={shown.sort}
          onChange={(sort) => onShow({ ...shown, sort: sort === 'due' ? 'due' : 'arrived' })}
        />
        <FilterButton
          {...{ shown, workflows, isFiltering }}
          onFilter={(of) => {
            if (of !== null && of !== workflow) onShow(narrowedTo(shown, of, null));
            setFiltering(of === null ? !isFiltering : true);
          }}
        />
        <ViewsMenu
          query={views}
          settings={shown}
          sharedWith="for all who hold one of my roles"
          isKeeping={keep.isPending}
          fault={fault}
          onTake={onShow}
          onKeep={(request, onSuccess) => keep.mutate(request, { onSuccess })}
          onDrop={(id) => drop.mutate(id)}
        />
      </div>
      {workflow !== null && (isFiltering || shown.filter !== '') && (
        <Filter workflow={workflow} filter={shown.filter} onFilter={(filter) => onShow({ ...shown, filter })} />
      )}
    </>
  );
}

/** A condition is over one workflow: with none chosen it is asked which, unless there is but one. */
function FilterButton({
  shown,
  workflows,
  isFiltering,
  onFilter,
}: Pick<Props, 'shown' | 'workflows'> & {
  readonly isFiltering: boolean;
  readonly onFilter: (workflow: string | null) => void;
}) {
  const isOpen = shown.workflow !== null && (isFiltering || shown.filter !== '');
  const [only, ...others] = workflows;
  const button = (onClick?: () => void) => (
    <Button
      size="xs"
      variant={shown.filter === '' ? 'default' : 'light'}
      leftSection={<IconFilter size={14} aria-hidden="true" />}
      aria-expanded={isOpen}
      {...(onClick ? { onClick } : {})}
    >
      Filter
    </Button>
  );
  if (shown.workflow !== null) return button(() => onFilter(null));
  if (others.length === 0) return only ? button(() => onFilter(only.key)) : null;
  return (
    <Menu position="bottom-end" withinPortal>
      <Menu.Target>{button()}</Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>By the fields of</Menu.Label>
        {workflows.map(({ key, name }) => (
          <Menu.Item key={key} onClick={() => onFilter(key)}>
            {name}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function Filter({
  workflow,
  filter,
  onFilter,
}: {
  readonly workflow: string;
  readonly filter: string;
  readonly onFilter: (filter: string) => void;
}) {
  const query = useQuery(deskWorkflowQuery(workflow));
  return (
    <div className={classes.filter}>
      <Loaded query={query} rows={2}>
        {(register) => (
          <Suspense fallback={<p className={classes.soft}>The filter opens …</p>}>
            <FilterPanel register={register} filter={filter} onFilter={onFilter} />
          </Suspense>
        )}
      </Loaded>
    </div>
  );
}
