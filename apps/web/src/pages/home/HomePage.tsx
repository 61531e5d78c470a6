import { Navigate } from 'react-router';
import { useSession } from '../../features/session/queries.ts';

/** Analysts begin at their workflows, everybody else at their desk. */
export function HomePage() {
  const { member } = useSession();
  return <Navigate to={member.roles.includes('analyst') ? '/workflows' : '/desk'} replace />;
}
