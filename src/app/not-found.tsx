import { connection } from 'next/server';
import Link from 'next/link';

/** Said of every address that leads nowhere. Made for each request, so that its scripts carry the number of that one. */
export default async function NotFound() {
  await connection();
  return (
    <main className="empty-view">
      <h1>There is nothing at this address.</h1>
      <Link className="btn btn-line" href="/">
        To the list of sessions
      </Link>
    </main>
  );
}
