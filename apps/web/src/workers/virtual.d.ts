/** The address of the draft worker's script; see `vite.config.ts`. */
declare module 'virtual:draft-worker' {
  const address: string;
  export default address;
}
