import { Popover, UnstyledButton } from '@mantine/core';
import { memo } from 'react';
import classes from './Word.module.css';

/** Hard words, each in a sentence or two. */
export const WORDS = {
  adjustment:
    'A named condition under which chosen fields get another treatment at chosen stages. It holds while its condition does, and falls back by itself.',
  branch: 'A named condition and the stage it leads to. They are tried in order; “otherwise” takes what none of them does.',
  checking:
    'Full: the record goes on only when everything required is there and every limit and check holds. None: it goes as it is, as when it is sent back.',
  computed:
    'A field whose value is an expression over others. Nobody enters it; it is worked out again whenever what it reads changes.',
  confidential: 'Only the roles named here ever get the value: not in forms, mails, lists or reasons for anybody else.',
  due: 'Until when something is to be done at this stage. People are reminded of it, and hand-offs can happen by themselves, by how long it is before or after that date. Working days and hours count in the workspace’s calendar.',
  handOff: 'The button with which somebody passes the record on. Its branches say where to.',
  junction: 'A stage at which nobody stops: the record passes on at once, by condition.',
  policy: 'First: the first branch that holds is taken. Single: exactly one may hold, and two that do are refused.',
  submitter: 'What whoever submitted the record sees when looking in on it while others have it.',
  track: 'A named line through stages. A record’s track is set by its intake, or by a branch it took.',
  treatment:
    'What a stage does with a field: hidden, read-only, optional, nudged (optional, but pointed out while it is empty) or required.',
} as const;

/** A word with a short explanation a click away. */
export const Word = memo(function Word({ of, children }: { readonly of: keyof typeof WORDS; readonly children: string }) {
  return (
    <Popover width={280} position="bottom-start" shadow="md" withArrow>
      <Popover.Target>
        <UnstyledButton className={classes.word} aria-label={`${children}: what is that?`}>
          {children}
        </UnstyledButton>
      </Popover.Target>
      <Popover.Dropdown className={classes.means}>{WORDS[of]}</Popover.Dropdown>
    </Popover>
  );
});
