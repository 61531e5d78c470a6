import { Link } from 'react-router';
import { Notice } from '../../shared/Notice.tsx';

export function NothingHere() {
  return (
    <main style={{ padding: 40, maxWidth: 560 }}>
      <Notice tone="calm" title="There is nothing at this address">
        It may have moved, or you may not see it. <Link to="/">Go to the start</Link>
      </Notice>
    </main>
  );
}
