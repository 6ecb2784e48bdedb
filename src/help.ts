import type { MarkdownInstance } from 'astro';

interface Front {
  title: string;
  order: number;
  /** Views it is the help of, as the bar and the pages name them. */
  views: string[];
}

const files = import.meta.glob<MarkdownInstance<Front>>('../docs/help/*.md', { eager: true });

export interface HelpPage {
  id: string;
  href: string;
  name: string;
  views: readonly string[];
  page: MarkdownInstance<Front>;
}

/** The pages of the help, in their order. */
export const helpPages: readonly HelpPage[] = Object.entries(files)
  .map(([path, page]) => {
    const id = path.split('/').at(-1)!.replace('.md', '');
    const { title, views } = page.frontmatter;
    return { id, href: `/help/${id}`, name: title, views, page };
  })
  .sort((a, b) => a.page.frontmatter.order - b.page.frontmatter.order);

/** The help of a view; the list of all where it has none. */
export const helpOf = (view: string): string => helpPages.find(({ views }) => views.includes(view))?.href ?? '/help';
