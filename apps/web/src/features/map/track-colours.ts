export const TRACK_COLOURS = ['var(--teal)', 'var(--plum)', 'var(--slate)', 'var(--amber)'] as const;

/** A track's colour; colours come round again. */
export const colourOfTrack = (workflow: { readonly tracks: readonly { readonly key: string }[] }, track: string): string => {
  const index = workflow.tracks.findIndex((own) => own.key === track);
  return TRACK_COLOURS[Math.max(0, index) % TRACK_COLOURS.length] ?? TRACK_COLOURS[0];
};
