import { ChangeDetectionStrategy, Component, computed, input, linkedSignal, output } from '@angular/core';
import { MatButton } from '@angular/material/button';
import {
  KIND_LABELS,
  SETTINGS,
  SETTING_LABELS,
  baseName,
  count,
  openSettingWords,
  readableSize,
  type Course,
} from '@treenail/core';
import type { InventoryAnswer } from '@treenail/server/contract';
import { hierarchy, treemap, treemapSquarify } from 'd3-hierarchy';
import { SizePipe } from '../parts/words';
import type { InsideSource } from './source';
import { MatExpansionModule } from '@angular/material/expansion';

const WIDTH = 1000;
const HEIGHT = 250;
/** Files that are drawn each for itself; the rest of a type is one field. */
const DRAWN = 60;

interface Leaf {
  name: string;
  title: string;
  size: number;
  item: string | null;
  inside?: Leaf[];
}

/** What is in a course, in numbers: by kind, by type and by size, where it leads and what nothing uses. */
@Component({
  selector: 'tn-inventory-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatExpansionModule, SizePipe],
  templateUrl: './inventory-view.html',
  styleUrl: './inventory-view.scss',
})
export class InventoryView {
  readonly course = input.required<Course>();
  readonly inventory = input.required<InventoryAnswer>();
  readonly source = input.required<InsideSource>();
  readonly chosen = output<string>();
  protected readonly labels = KIND_LABELS as Record<string, string>;
  protected readonly count = count;
  protected readonly base = baseName;
  protected readonly width = WIDTH;
  protected readonly height = HEIGHT;
  /** How many things no reader took; 0 where all was read. */
  protected readonly unread = computed(() => (this.inventory().unread ?? []).reduce((sum, one) => sum + one.times, 0));
  protected readonly allUnread = linkedSignal<InventoryAnswer, boolean>({
    source: this.inventory,
    computation: () => false,
  });
  protected readonly firstUnread = computed(() => {
    const all = this.inventory().unread ?? [];
    return this.allUnread() ? all : all.slice(0, 12);
  });
  protected readonly moreUnread = computed(() => (this.inventory().unread ?? []).length - this.firstUnread().length);
  /** What is set of the course as a whole. */
  protected readonly settings = computed(() => {
    const { settings = {} } = this.course();
    return SETTINGS.flatMap((name) => {
      const value = settings[name];
      const label = SETTING_LABELS[name];
      // What was not read has a list of its own, of all items.
      return value === undefined || name === 'unread'
        ? []
        : [{ label: label.charAt(0).toUpperCase() + label.slice(1), words: openSettingWords(name, value) }];
    });
  });
  protected readonly lists = computed(() => {
    const { byMedia, questions, hosts, tools, languages } = this.inventory();
    const rows = <T>(list: readonly T[], row: (one: T) => [string, string]) =>
      list.slice(0, 12).map((one) => {
        const [name, number] = row(one);
        return { name, number };
      });
    return [
      {
        title: 'File types',
        more: byMedia.length - 12,
        rows: rows(byMedia, (m) => [
          m.mediaType.replace('application/vnd.openxmlformats-officedocument.', ''),
          `${readableSize(m.bytes)} in ${m.files}`,
        ]),
      },
      { title: 'Questions', more: 0, rows: rows(questions, (q) => [q.type, String(q.count)]) },
      { title: 'Sites it leads to', more: hosts.length - 12, rows: rows(hosts, (h) => [h.host, String(h.links)]) },
      { title: 'External tools', more: tools.length - 12, rows: rows(tools, (t) => [t.host, String(t.items)]) },
      {
        title: 'Languages of its pages',
        more: languages.length - 12,
        rows: rows(languages, (l) => [l.language, String(l.pages)]),
      },
    ].filter((list) => list.rows.length > 0);
  });
  protected readonly dates = computed(() => {
    const { dates } = this.inventory();
    return dates ? `${dates.from.slice(0, 10)} to ${dates.to.slice(0, 10)}, on ${count(dates.items, 'item')}` : 'none';
  });

  /** Fields as large as their files, those of a type side by side. */
  protected readonly fields = computed(() => {
    const { biggest, byMedia } = this.inventory();
    const titles = new Map(this.course().items.map((i) => [i.id, i.title]));
    const drawn = biggest.slice(0, DRAWN).filter((f) => f.size > 0);
    const groups = byMedia.flatMap((m): Leaf[] => {
      const own = drawn.filter((f) => f.mediaType === m.mediaType);
      const rest = m.bytes - own.reduce((sum, f) => sum + f.size, 0);
      const others = m.files - own.length;
      const inside: Leaf[] = own.map((f) => ({
        name: f.path,
        title: titles.get(f.item ?? '') ?? baseName(f.path),
        size: f.size,
        item: f.item,
      }));
      if (rest > 0) {
        inside.push({ name: m.mediaType, title: `${count(others, 'smaller file')}`, size: rest, item: null });
      }
      return inside.length > 0 ? [{ name: m.mediaType, title: m.mediaType, size: 0, item: null, inside }] : [];
    });
    const root = hierarchy<Leaf>({ name: '', title: '', size: 0, item: null, inside: groups }, (d) => d.inside)
      .sum((d) => (d.inside ? 0 : d.size))
      .sort((a, b) => (b.value ?? 0) - (a.value ?? 0));
    const laid = treemap<Leaf>().tile(treemapSquarify).size([WIDTH, HEIGHT]).paddingInner(2)(root);
    const types = new Map(groups.map((g, i) => [g.name, i]));
    return laid.leaves().map((leaf) => {
      const [w, h] = [leaf.x1 - leaf.x0, leaf.y1 - leaf.y0];
      const letters = Math.floor((w - 10) / 6.6);
      const { title } = leaf.data;
      return {
        ...leaf.data,
        x: leaf.x0,
        y: leaf.y0,
        w,
        h,
        shade: (types.get(leaf.parent?.data.name ?? '') ?? 0) % 5,
        label: letters < 4 || h < 16 ? '' : title.length > letters ? `${title.slice(0, letters - 1)}…` : title,
        words: `${title}: ${leaf.data.name}, ${readableSize(leaf.data.size)}`,
      };
    });
  });

  protected placeWords({ places }: NonNullable<InventoryAnswer['unread']>[number]): string {
    return places.map(({ file, line }) => `${file}, line ${line}`).join('\n');
  }

  protected print(): void {
    window.print();
  }
}
