import Dropdown from 'react-bootstrap/Dropdown';

/** Something that can be done, as a menu shows it. */
export interface Act {
  readonly name: string;
  /** As keys are shown, where it has some. */
  readonly keys?: string;
  /** Left out where it cannot apply. */
  readonly isHidden?: boolean;
  /** A line stands above it. */
  readonly isApart?: boolean;
  run(): void;
}

/** Acts as entries of a menu, with their keys. */
export function ActItems({ acts }: { readonly acts: readonly Act[] }) {
  return acts
    .filter(({ isHidden }) => !isHidden)
    .map(({ name, keys, isApart, run }, n) => (
      <div key={name} role="presentation">
        {isApart && n > 0 && <Dropdown.Divider role="separator" />}
        <Dropdown.Item
          as="button"
          type="button"
          className="act-item"
          aria-keyshortcuts={keys?.replace('Ctrl', 'Control')}
          onClick={run}
        >
          <span>{name}</span>
          {keys !== undefined && <kbd aria-hidden="true">{keys}</kbd>}
        </Dropdown.Item>
      </div>
    ));
}
