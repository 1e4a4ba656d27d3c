import Button from 'react-bootstrap/Button';
import { FoldCaret } from './FoldCaret';

interface Props {
  readonly name: string;
  readonly isOpen: boolean;
  /** Said beside the name. */
  readonly note?: string | undefined;
  readonly onToggle: () => void;
}

/** A heading that folds away what is under it. */
export function FoldHeading({ name, isOpen, note, onToggle }: Props) {
  return (
    <h3>
      <Button
        bsPrefix="fold"
        aria-expanded={isOpen}
        aria-label={`${name} section${note === undefined ? '' : `, ${note}`}`}
        onClick={onToggle}
      >
        <FoldCaret isOpen={isOpen} /> {name}
        {note !== undefined && <small> {note}</small>}
      </Button>
    </h3>
  );
}
