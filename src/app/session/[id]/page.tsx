import { SessionPage } from '@/features/shell/SessionPage';

export const dynamic = 'force-dynamic';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <SessionPage id={(await params).id} />;
}
