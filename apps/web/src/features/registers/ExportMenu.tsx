import { Button, Checkbox, Menu, Modal, Radio, SegmentedControl, Select } from '@mantine/core';
import { IconDownload } from '@tabler/icons-react';
import type { RegisterDocument } from '@ypomet/contract';
import { useState } from 'react';
import classes from './ExportMenu.module.css';
import { type ExportWishes, exportAddress } from './queries.ts';
import type { Shown } from './register-state.ts';

type Props = { readonly register: RegisterDocument; readonly shown: Shown };

const FORMATS = [
  { value: 'csv', label: 'CSV' },
  { value: 'xlsx', label: 'Workbook (XLSX)' },
  { value: 'json', label: 'JSON' },
] as const;

/** As an import reads them back: the table's rows in one cell. */
const PLAIN: ExportWishes = {
  format: 'csv',
  tables: 'cell',
  table: '',
  names: 'labels',
  forms: 'sheets',
  currency: 'no',
  mark: 'yes',
};

/** The records as narrowed and ordered, with the columns on show, as a file: at once as most people need it, or as chosen. */
export function ExportMenu({ register, shown }: Props) {
  const [isChoosing, setChoosing] = useState(false);
  return (
    <>
      <Menu position="bottom-end" withinPortal>
        <Menu.Target>
          <Button size="xs" variant="default" leftSection={<IconDownload size={14} aria-hidden="true" />}>
            Export
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>These records, these columns</Menu.Label>
          {FORMATS.map(({ value, label }) => (
            <Menu.Item
              key={value}
              component="a"
              href={exportAddress(register.definition.key, shown, shown.columns, { ...PLAIN, format: value })}
              download={`${register.definition.key}.${value}`}
            >
              {label}
            </Menu.Item>
          ))}
          <Menu.Divider />
          <Menu.Item onClick={() => setChoosing(true)}>Choose how it is written …</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <Modal opened={isChoosing} onClose={() => setChoosing(false)} title="Export these records" centered size="md">
        <ExportForm register={register} shown={shown} onDone={() => setChoosing(false)} />
      </Modal>
    </>
  );
}

/**
 * Who is here: somebody who takes records to another program, or to colleagues abroad. They want a file that is read there as
 * it was meant, without editing it by hand.
 */
function ExportForm({ register, shown, onDone }: Props & { readonly onDone: () => void }) {
  const [wishes, setWishes] = useState<ExportWishes>(PLAIN);
  const put = (part: Partial<ExportWishes>): void => setWishes({ ...wishes, ...part });
  const { definition } = register;
  const tables = definition.fields.filter(({ type }) => type === 'table').map(({ key, name }) => ({ value: key, label: name }));
  const hasTable = wishes.table === '' && tables.some(({ value }) => shown.columns.includes(value));
  const hasMoney = definition.fields.some(
    (field) => field.type === 'money' || (field.type === 'table' && field.fields.some(({ type }) => type === 'money')),
  );
  const isText = wishes.format !== 'json';
  return (
    <div className={classes.wishes}>
      <SegmentedControl
        size="xs"
        aria-label="Kind of file"
        data={[...FORMATS]}
        value={wishes.format}
        onChange={(format) => put({ format: format as ExportWishes['format'] })}
      />
      {tables.length > 0 && (
        <Select
          size="xs"
          w={360}
          label="What is in it"
          description="Of a table alone, each row has a line with the number of its record."
          allowDeselect={false}
          data={[{ value: '', label: 'The records, with the columns on show' }, ...rowsOf(tables)]}
          value={wishes.table}
          onChange={(table) => put({ table: table ?? '' })}
        />
      )}
      {isText && hasTable && (
        <Radio.Group
          label="Rows of tables"
          value={wishes.tables}
          onChange={(way) => put({ tables: way as ExportWishes['tables'] })}
        >
          <div className={classes.ways}>
            <Radio size="xs" value="cell" label="All rows in one cell" />
            <Radio size="xs" value="lines" label="A line for each row, which an import can read back" />
          </div>
        </Radio.Group>
      )}
      {isText && (
        <>
          <Radio.Group
            label="Headings, options and people"
            value={wishes.names}
            onChange={(names) => put({ names: names as ExportWishes['names'] })}
          >
            <div className={classes.ways}>
              <Radio size="xs" value="labels" label="By the names that people know" />
              <Radio size="xs" value="keys" label="By keys and ids, for programs" />
            </div>
          </Radio.Group>
          <Radio.Group
            label="Numbers and days"
            value={wishes.forms}
            onChange={(forms) => put({ forms: forms as ExportWishes['forms'] })}
          >
            <div className={classes.ways}>
              <Radio size="xs" value="sheets" label="As sheets and programs read them: 1250.5, 2027-03-12" />
              <Radio size="xs" value="workspace" label="As the pages here show them" />
            </div>
          </Radio.Group>
        </>
      )}
      {hasMoney && (
        <Checkbox
          size="xs"
          label="The currency of each amount in a column of its own"
          checked={wishes.currency === 'yes'}
          onChange={(event) => put({ currency: event.currentTarget.checked ? 'yes' : 'no' })}
        />
      )}
      {wishes.format === 'csv' && (
        <Checkbox
          size="xs"
          label="Begin with a byte order mark"
          description="Sheets need it to read letters such as é or Ł; some programs stumble over it."
          checked={wishes.mark === 'yes'}
          onChange={(event) => put({ mark: event.currentTarget.checked ? 'yes' : 'no' })}
        />
      )}
      <div className={classes.foot}>
        <Button variant="default" onClick={onDone}>
          Cancel
        </Button>
        <Button
          component="a"
          href={exportAddress(definition.key, shown, shown.columns, wishes)}
          download={`${definition.key}${wishes.table === '' ? '' : `-${wishes.table}`}.${wishes.format}`}
          onClick={onDone}
        >
          Export
        </Button>
      </div>
    </div>
  );
}

const rowsOf = (tables: readonly { readonly value: string; readonly label: string }[]) =>
  tables.map(({ value, label }) => ({ value, label: `Only the rows of ${label}` }));
