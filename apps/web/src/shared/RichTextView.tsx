import type { RichBlock, RichText, Run } from '@ypomet/core';
import { Fragment, memo, type ReactNode } from 'react';
import classes from './RichTextView.module.css';

/** A filled-in text as it is read: nothing in it is taken for anything but text. */
export const RichTextView = memo(function RichTextView({ text }: { readonly text: RichText }) {
  return (
    <div className={classes.text}>
      {text.map((block, index) => (
        // Blocks have no names, and a filled-in text never changes its order.
        // biome-ignore lint/suspicious/noArrayIndexKey: see above
        <Block key={index} block={block} />
      ))}
    </div>
  );
});

function Block({ block }: { readonly block: RichBlock }) {
  switch (block.kind) {
    case 'paragraph':
      return <p>{ofRuns(block.runs)}</p>;
    case 'heading': {
      const Tag = `h${block.level + 2}` as 'h3' | 'h4' | 'h5';
      return <Tag>{ofRuns(block.runs)}</Tag>;
    }
    case 'list': {
      const Tag = block.isOrdered ? 'ol' : 'ul';
      return (
        <Tag>
          {block.items.map((item, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: items have no names
            <li key={index}>{ofRuns(item)}</li>
          ))}
        </Tag>
      );
    }
    case 'table':
      return (
        <table>
          <thead>
            <tr>
              {block.head.map((name) => (
                <th key={name} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {block.rows.map((row, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows have no names
              <tr key={index}>
                {row.map((cell, column) => (
                  <td key={block.head[column]}>{cell}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      );
    case 'fields':
      return (
        <table>
          <tbody>
            {block.entries.map(({ name, text }) => (
              <tr key={name}>
                <th scope="row">{name}</th>
                <td>{text}</td>
              </tr>
            ))}
          </tbody>
        </table>
      );
    default:
      return block satisfies never;
  }
}

const ofRuns = (runs: readonly Run[]): ReactNode =>
  runs.map((run, index) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: runs have no names
    <Fragment key={index}>{ofRun(run)}</Fragment>
  ));

function ofRun({ text, isStrong, isEmphasis, link }: Run): ReactNode {
  const emphasised = isEmphasis ? <em>{text}</em> : text;
  const strong = isStrong ? <strong>{emphasised}</strong> : emphasised;
  return link ? (
    <a href={link} rel="noreferrer" target="_blank">
      {strong}
    </a>
  ) : (
    strong
  );
}
