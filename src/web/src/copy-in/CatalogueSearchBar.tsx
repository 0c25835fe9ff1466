import { Input, type InputRef, Select } from "antd";
import { useRef } from "react";
import { type CatalogueSearch, useShelves } from "../api/queries";
import type { MediaKind } from "../api/types";
import { useShortcut } from "../frame/keys";
import { rate } from "../words";
import css from "./copy-in.module.css";
import { useCatalogueFacets } from "./queries";

const kinds: Record<MediaKind, string> = { Audio: "audio", Video: "video", Midi: "MIDI", Instrument: "instruments" };

/** Lengths that people look for: one-shots, phrases, beds. */
const lengths: Record<string, Pick<CatalogueSearch, "minSeconds" | "maxSeconds"> & { label: string }> = {
  short: { label: "under 2 s", minSeconds: undefined, maxSeconds: 2 },
  phrase: { label: "2 to 20 s", minSeconds: 2, maxSeconds: 20 },
  long: { label: "over 20 s", minSeconds: 20, maxSeconds: undefined },
};

interface Props {
  search: CatalogueSearch;
  onSearch: (search: CatalogueSearch) => void;
}

/** Search and filters over all shelves. */
export function CatalogueSearchBar({ search, onSearch }: Props) {
  const input = useRef<InputRef>(null);
  const shelves = useShelves().data ?? [];
  const facets = useCatalogueFacets().data;
  const set = (part: Partial<CatalogueSearch>) => onSearch({ ...search, ...part });
  const length = Object.entries(lengths).find(
    ([, l]) => l.minSeconds === search.minSeconds && l.maxSeconds === search.maxSeconds,
  )?.[0];
  useShortcut("/", () => input.current?.focus());
  return (
    <div className={css.catalogueSearch}>
      <Input
        ref={input}
        allowClear
        size="small"
        placeholder="Search all shelves ( / )"
        aria-label="Search the catalogue"
        value={search.text}
        onChange={(e) => set({ text: e.target.value })}
      />
      <Select
        size="small"
        allowClear
        aria-label="Shelf"
        placeholder="any shelf"
        value={search.shelfId}
        onChange={(shelfId?: string) => set({ shelfId })}
        options={shelves.map((s) => ({ value: s.id, label: s.name, title: s.name }))}
      />
      <Select
        size="small"
        allowClear
        aria-label="Kind"
        placeholder="any kind"
        value={search.kind}
        onChange={(kind?: MediaKind) => set({ kind })}
        options={Object.entries(kinds).map(([value, label]) => ({ value, label, title: label }))}
      />
      <Select
        size="small"
        allowClear
        aria-label="Length"
        placeholder="any length"
        value={length}
        onChange={(key?: string) => {
          const chosen = key ? lengths[key] : undefined;
          set({ minSeconds: chosen?.minSeconds, maxSeconds: chosen?.maxSeconds });
        }}
        options={Object.entries(lengths).map(([value, l]) => ({ value, label: l.label, title: l.label }))}
      />
      <Select
        size="small"
        allowClear
        aria-label="Sample rate"
        placeholder="any rate"
        value={search.sampleRate}
        onChange={(sampleRate?: number) => set({ sampleRate })}
        options={facets?.sampleRates.map((r) => ({ value: r, label: rate(r), title: rate(r) })) ?? []}
      />
      <Select
        size="small"
        allowClear
        aria-label="Format"
        placeholder="any format"
        value={search.container}
        onChange={(container?: string) => set({ container })}
        options={facets?.containers.map((c) => ({ value: c, label: c, title: c })) ?? []}
      />
    </div>
  );
}
