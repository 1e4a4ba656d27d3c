/** Milliseconds for which typed keys are kept until the field is there. */
const PATIENCE_MS = 5000;

/**
 * Keeps what is typed for a field that is about to be shown, and away from everything else: a part of the page may have
 * to be fetched before its field can take keys.
 */
class TypeAhead {
  private text = '';
  private timer: ReturnType<typeof setTimeout> | null = null;

  /** Keys are kept from now on. */
  begin(): void {
    this.end();
    window.addEventListener('keydown', this.keep, true);
    this.timer = setTimeout(() => this.end(), PATIENCE_MS);
  }

  /** The field has the focus, or will not come. @returns what was typed */
  end(): string {
    window.removeEventListener('keydown', this.keep, true);
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    const { text } = this;
    this.text = '';
    return text;
  }

  private readonly keep = (event: KeyboardEvent): void => {
    if (event.key === 'Escape' || event.ctrlKey || event.metaKey || event.altKey) return;
    event.stopImmediatePropagation();
    if (event.key.length === 1) this.text += event.key;
    else if (event.key === 'Backspace') this.text = this.text.slice(0, -1);
    else return;
    event.preventDefault();
  };
}

export const typeAhead = new TypeAhead();
