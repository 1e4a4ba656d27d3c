/** The mark of what folds, beside its name: to the right when it is folded. */
export const FoldCaret = ({ isOpen }: { readonly isOpen: boolean }) => (
  <i className={isOpen ? 'caret' : 'caret caret-folded'} aria-hidden="true" />
);
