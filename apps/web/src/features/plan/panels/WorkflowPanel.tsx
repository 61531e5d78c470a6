import { useDraft } from '../../drafts/draft-context.tsx';
import classes from './Panel.module.css';
import { TextProperty, useChange } from './properties.tsx';

/** The workflow itself: what it is called, what it is for, and how its records are numbered. */
export function WorkflowPanel() {
  const { definition } = useDraft();
  const change = useChange('');
  return (
    <details className={classes.about}>
      <summary>About this workflow</summary>
      <div className={classes.panel}>
        <TextProperty label="Name" value={definition.name} onKeep={(name) => change({ name })} />
        <TextProperty
          label="What it is for"
          value={definition.description}
          lines={2}
          onKeep={(description) => change({ description })}
        />
        <TextProperty
          label="Numbers of records"
          note="{year} is the year, {number:4} the running number with four digits"
          value={definition.numbering}
          isCode
          onKeep={(numbering) => change({ numbering })}
        />
      </div>
    </details>
  );
}
