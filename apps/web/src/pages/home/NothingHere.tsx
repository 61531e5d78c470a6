import { Link } from 'react-router';

/** Who is here: somebody whom an old or misspelt address brought. They want to know that, and a way back. */
export function NothingHere() {
  return (
    <main style={{ padding: 40, maxWidth: 560 }}>
      <h1>There is nothing at this address</h1>
      <p>
        It may have moved, or you may not see it. <Link to="/">Go to the start</Link>
      </p>
    </main>
  );
}
