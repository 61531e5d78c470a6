import { Select } from '@mantine/core';
import classes from './Imports.module.css';
import type { Mapping, Target } from './rows.ts';
import type { Sheet } from './sheet.ts';

const SAMPLES = 3;

/** The columns of a sheet, each with some of what is in it and the field it fills. */
export function ColumnsTable({
  sheet,
  mapping,
  targets,
  onMap,
}: {
  readonly sheet: Sheet;
  readonly mapping: Mapping;
  readonly targets: readonly Target[];
  readonly onMap: (mapping: Mapping) => void;
}) {
  return (
    <table className={classes.columns}>
      <thead>
        <tr>
          <th scope="col">Column</th>
          <th scope="col">In it</th>
          <th scope="col">Fills</th>
        </tr>
      </thead>
      <tbody>
        {sheet.head.map((name, index) => {
          const said = name || `Column ${index + 1}`;
          const samples = sheet.lines.map((line) => line[index] ?? '').filter((cell) => cell.trim() !== '');
          const taken = new Set(mapping.filter((path, other) => path !== null && other !== index));
          return (
            // Two columns may have one name.
            <tr key={String(index)}>
              <th scope="row">{said}</th>
              <td className={classes.samples}>{samples.slice(0, SAMPLES).join(' · ') || 'nothing'}</td>
              <td>
                <Select
                  size="xs"
                  aria-label={`${said} fills`}
                  data={targets.filter(({ path }) => !taken.has(path)).map(({ path, name: label }) => ({ value: path, label }))}
                  value={mapping[index] ?? null}
                  placeholder="left out"
                  clearable
                  searchable
                  onChange={(path) => onMap(mapping.map((own, other) => (other === index ? path : own)))}
                />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
