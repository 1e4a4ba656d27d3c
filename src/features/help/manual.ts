import { isFound, wordsOf } from '../ui/isFound';

/** A page of docs/manual, by its headings. */
export interface ManualPage {
  readonly id: string;
  readonly title: string;
  readonly sections: readonly ManualSection[];
}

export interface ManualSection {
  /** Empty for what stands above the first heading. */
  readonly title: string;
  readonly html: string;
}

export interface FoundSection extends ManualSection {
  readonly page: ManualPage;
}

const plainText = (html: string) =>
  html
    .replace(/<[^>]*>/g, ' ')
    .replaceAll('&quot;', '"')
    .replaceAll('&amp;', '&');

/** Sections that have every word of a search, those with them in their heading first. */
export function searchManual(pages: readonly ManualPage[], search: string): FoundSection[] {
  const words = wordsOf(search);
  if (words.length === 0) return [];
  const found = pages.flatMap((page) => page.sections.map((section) => ({ ...section, page })));
  const headed = ({ page, title }: FoundSection) =>
    words.filter((word) => `${page.title} ${title}`.toLowerCase().includes(word)).length;
  return found
    .filter(({ page, title, html }) => isFound(search, plainText(`${page.title} ${title} ${html}`)))
    .sort((a, b) => headed(b) - headed(a));
}
