import { Button } from '@mantine/core';
import type { Json } from '@ypomet/core';
import { Notice } from '../../shared/Notice.tsx';
import type { Meeting } from './content.ts';
import classes from './Unfinished.module.css';

type Props = {
  readonly meetings: readonly Meeting[];
  readonly nameOf: (key: string) => string;
  /** A value as people read it. */
  readonly say: (key: string, value: Json) => string;
  readonly onSettle: (meeting: Meeting, isMine: boolean) => void;
};

/** What was entered here and changed in the record meanwhile: both are shown, and neither is lost before one is chosen. */
export function Meetings({ meetings, nameOf, say, onSettle }: Props) {
  if (meetings.length === 0) return null;
  return (
    <Notice tone="caution" title="These were changed meanwhile, and you entered something else">
      <table className={classes.meetings}>
        <thead>
          <tr>
            <th scope="col">Field</th>
            <th scope="col">You entered</th>
            <th scope="col">It has now</th>
          </tr>
        </thead>
        <tbody>
          {meetings.map((meeting) => {
            const name = nameOf(meeting.key);
            return (
              <tr key={meeting.key}>
                <th scope="row">{name}</th>
                <td>
                  <span className={classes.value}>{say(meeting.key, meeting.mine) || 'nothing'}</span>
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={`${name}: keep mine`}
                    onClick={() => onSettle(meeting, true)}
                  >
                    Keep mine
                  </Button>
                </td>
                <td>
                  <span className={classes.value}>{say(meeting.key, meeting.theirs) || 'nothing'}</span>
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={`${name}: take what it has now`}
                    onClick={() => onSettle(meeting, false)}
                  >
                    Take this
                  </Button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Notice>
  );
}
