import { useQuery } from '@tanstack/react-query';
import { OPERATIONS } from '@ypomet/contract/operations';
import { registersQuery } from '../../features/dispatch/queries.ts';
import { useSession } from '../../features/session/queries.ts';
import { formatInstant } from '../../shared/instants.ts';
import { Loaded } from '../../shared/Loaded.tsx';
import classes from './Dispatch.module.css';
import { DispatchNav } from './DispatchNav.tsx';

const addressOf = (path: string): string => `${OPERATIONS.registerFile.path}?${new URLSearchParams({ path })}`;

/** Who is here: the analyst, looking for a file that a hand-off wrote. */
export function RegistersPage() {
  const query = useQuery(registersQuery);
  const { workspace } = useSession();
  return (
    <main className={classes.page}>
      <DispatchNav />
      <h1>File registers</h1>
      <Loaded query={query} rows={6}>
        {(files) =>
          files.length === 0 ? (
            <p className={classes.none}>No file was written yet. File outlets write into folders here.</p>
          ) : (
            <table className={classes.table}>
              <thead>
                <tr>
                  <th scope="col">File</th>
                  <th scope="col">Size</th>
                  <th scope="col">Written</th>
                </tr>
              </thead>
              <tbody>
                {files.map((file) => (
                  <tr key={file.path}>
                    <td>
                      <a href={addressOf(file.path)}>{file.path}</a>
                    </td>
                    <td className={classes.soft}>{Math.max(1, Math.round(file.bytes / 1000))} kB</td>
                    <td className={classes.soft}>{formatInstant(file.changedAt, workspace)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )
        }
      </Loaded>
    </main>
  );
}
