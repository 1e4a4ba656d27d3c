import { useEffect, useState } from 'react';
import type { LocalBounce } from '../session/bounceStore';
import { useStudio } from '../session/StudioContext';

/** Link that saves the sound file of a finished bounce once more; nothing until the file is there. */
export function BounceDownload({ bounce: { id, fileName } }: { bounce: LocalBounce }) {
  const studio = useStudio();
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    let made: string | null = null;
    let isGone = false;
    studio.bounces.file(id).then(
      (file) => {
        if (isGone) return;
        made = URL.createObjectURL(file);
        setUrl(made);
      },
      (error: unknown) => studio.messages.report(error, `bounce ${id}`),
    );
    return () => {
      isGone = true;
      if (made) URL.revokeObjectURL(made);
    };
  }, [studio, id]);
  if (!url) return null;
  return (
    <a className="btn btn-line" href={url} download={fileName}>
      Save {fileName} again
    </a>
  );
}
