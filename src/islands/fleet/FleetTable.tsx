import { keepPreviousData, QueryClient, QueryClientProvider, useInfiniteQuery } from '@tanstack/react-query';
import { type FormEvent, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { FleetQuery } from '../../../contract/fleet';
import { count, plural } from '../../../core/count';
import { type LocalDate, sayDay, sayDayLong } from '../../../core/dates';
import { tagPath } from '../../../core/instruments/tag';
import { decodeStrip } from '../../../core/wear/strip';
import type { FleetPage, FleetRow } from '../../../server/fleet/list';
import { StringStrip } from '../../components/StringStrip';
import { dueChip } from '../../components/words';
import { later } from '../../ui/later';
import { type Column, Table } from '../../ui/Table';
import { useEnteredBefore } from '../../ui/useEnteredBefore';

// What is done with several at once is loaded when one is first chosen.
const Chosen = later(() => import('./Chosen').then((m) => m.Chosen));

interface Props {
  first: FleetPage;
  query: FleetQuery;
  today: LocalDate;
  now: number;
  horizon: LocalDate;
  timeZone: string;
  places: { id: number; name: string }[];
  sets: readonly { id: number; name: string; family: string }[];
  families: [string, string][];
}

type Filters = Omit<FleetQuery, 'offset' | 'limit'>;

type Sort = FleetQuery['sort'];
interface At {
  today: LocalDate;
  now: number;
  horizon: LocalDate;
  timeZone: string;
}

const columnsAt = (at: At): Column<FleetRow, Sort>[] => [
  {
    id: 'tag',
    title: 'Tag',
    sort: 'tag',
    col: 'w-[5.9rem]',
    cell: '',
    show: (row) => (
      <a className="tag after:absolute after:inset-0" href={`/instruments/${tagPath(row.tag)}`}>
        {row.tag}
      </a>
    ),
  },
  {
    id: 'strings',
    title: 'Strings',
    col: 'hidden sm:table-column w-[138px]',
    cell: 'hidden sm:table-cell',
    show: (row) => <StringStrip strings={decodeStrip(row.strip)} width={118} height={26} />,
  },
  { id: 'instrument', title: 'Instrument', sort: 'instrument', col: '', cell: 'truncate', show: (row) => row.name },
  {
    id: 'place',
    title: 'Place',
    sort: 'place',
    col: 'hidden lg:table-column w-[7.4rem]',
    cell: 'truncate hidden lg:table-cell',
    show: (row) => <span className="muted">{row.place}</span>,
  },
  {
    id: 'with',
    title: 'Held by',
    col: 'hidden lg:table-column w-[6.8rem]',
    cell: 'truncate hidden lg:table-cell',
    show: (row) => <span className="muted">{row.holder}</span>,
  },
  {
    id: 'due',
    title: 'Due',
    sort: 'due',
    col: 'w-[8rem]',
    cell: '',
    show: (row) => {
      const chip = dueChip(row, at);
      return <span className={`chip chip-${chip.kind}`}>{chip.text}</span>;
    },
  },
  {
    id: 'because',
    title: 'Why',
    col: 'hidden md:table-column w-[11.5rem]',
    cell: 'truncate hidden md:table-cell',
    show: (row) => row.because,
    hint: (row) => row.because,
  },
  {
    id: 'changed',
    title: 'Last change',
    sort: 'changed',
    col: 'hidden xl:table-column w-[7.4rem] 2xl:w-[18rem]',
    cell: 'truncate hidden xl:table-cell',
    show: (row) => (
      <span className="muted">
        {row.changedOn ? sayDay(row.changedOn, at.today) : 'not on record'}
        {row.changedOn && <span className="hidden 2xl:inline">, {row.changedWhat}</span>}
      </span>
    ),
    hint: (row) => row.changedWhat,
  },
];

const DUE_CHOICES: { value: Filters['due']; label: string }[] = [
  { value: 'all', label: 'any condition' },
  { value: 'horizon', label: 'due by the marker' },
  { value: 'overdue', label: 'late' },
  { value: 'broken', label: 'broken' },
  { value: 'settling', label: 'settling' },
];

/** The filters as they stand in the address bar; defaults are left out. */
function paramsOf(f: Filters): URLSearchParams {
  const params = new URLSearchParams();
  if (f.q) params.set('q', f.q);
  if (f.place !== null) params.set('place', String(f.place));
  if (f.family !== null) params.set('family', f.family);
  if (f.due !== 'all') params.set('due', f.due);
  if (f.sort !== 'due') params.set('sort', f.sort);
  if (f.descending) params.set('descending', 'true');
  return params;
}

export function FleetTable(props: Props) {
  const [client] = useState(() => new QueryClient({ defaultOptions: { queries: { staleTime: 15_000, retry: 1 } } }));
  return (
    <QueryClientProvider client={client}>
      <Fleet {...props} />
    </QueryClientProvider>
  );
}

const tagOf = (row: FleetRow): string => row.tag;

function Fleet({ first, query, today, now, horizon: startHorizon, timeZone, places, sets, families }: Props) {
  const { offset: _o, limit, ...startFilters } = query;
  const [filters, setFilters] = useState<Filters>(startFilters);
  const [horizon, setHorizon] = useState(startHorizon);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [everChosen, setEverChosen] = useState(false);
  const [barShown, setBarShown] = useState(false);
  const isStart = JSON.stringify(filters) === JSON.stringify(startFilters) && horizon === startHorizon;

  useEffect(() => {
    const moved = document.documentElement.dataset.horizon;
    if (moved) setHorizon(moved);
    const follow = (event: Event) => setHorizon((event as CustomEvent<LocalDate>).detail);
    window.addEventListener('arvick:horizon', follow);
    return () => window.removeEventListener('arvick:horizon', follow);
  }, []);
  useEffect(() => {
    const text = paramsOf(filters).toString();
    history.replaceState(null, '', text ? `?${text}` : location.pathname);
  }, [filters]);

  const { data, error, isFetching, isPlaceholderData, fetchNextPage, hasNextPage, refetch } = useInfiniteQuery({
    queryKey: ['fleet', filters, horizon],
    queryFn: async ({ pageParam, signal }): Promise<FleetPage> => {
      const params = paramsOf(filters);
      params.set('offset', String(pageParam));
      params.set('limit', String(limit));
      params.set('horizon', horizon);
      const answer = await fetch(`/api/fleet?${params}`, { signal });
      if (!answer.ok) throw new Error(`error ${answer.status} from the server`);
      return answer.json();
    },
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const shown = pages.reduce((sum, p) => sum + p.rows.length, 0);
      return shown < last.matching ? shown : undefined;
    },
    initialData: isStart ? { pages: [first], pageParams: [0] } : undefined,
    placeholderData: keepPreviousData,
  });
  const pages = data?.pages ?? [first];
  const head = pages[0] as FleetPage;
  // Rows that were read again keep their places until another order is asked for: nobody presses the wrong one.
  const placeOf = useRef({ key: '', of: new Map<string, number>() });
  const rows = useMemo(() => {
    const read = (data?.pages ?? [first]).flatMap((p) => p.rows);
    // Shown until the new order arrives.
    if (isPlaceholderData) return read;
    const key = JSON.stringify([filters, horizon]);
    if (placeOf.current.key !== key) placeOf.current = { key, of: new Map() };
    const { of } = placeOf.current;
    for (const row of read) if (!of.has(row.tag)) of.set(row.tag, of.size);
    return read.toSorted((a, b) => (of.get(a.tag) ?? 0) - (of.get(b.tag) ?? 0));
  }, [data, first, filters, horizon, isPlaceholderData]);
  // What a filter hides is not chosen any more.
  const chosenRows = useMemo(() => rows.filter((r) => chosen.has(r.tag)), [rows, chosen]);
  const choose = useCallback((tags: readonly string[], on: boolean) => {
    setEverChosen(true);
    setChosen((was) => {
      const next = new Set(was);
      for (const tag of tags) on ? next.add(tag) : next.delete(tag);
      return next;
    });
  }, []);
  const columns = useMemo(() => columnsAt({ today, now, horizon, timeZone }), [today, now, horizon, timeZone]);

  // The next rows come by themselves when the end is near; the button is there for keyboards.
  const end = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    const button = end.current;
    if (!button) return;
    const watch = new IntersectionObserver((seen) => seen.some((s) => s.isIntersecting) && void fetchNextPage(), {
      rootMargin: '600px',
    });
    watch.observe(button);
    return () => watch.disconnect();
  });

  const root = useRef<HTMLElement>(null);
  useEnteredBefore(root);

  const set = (change: Partial<Filters>) => setFilters((f) => ({ ...f, ...change }));
  const sortBy = (sort: FleetQuery['sort']) =>
    set({ sort, descending: filters.sort === sort ? !filters.descending : false });
  const filtered = filters.q !== '' || filters.place !== null || filters.family !== null || filters.due !== 'all';
  const where = filters.place === null ? '' : ` at ${places.find((p) => p.id === filters.place)?.name}`;

  return (
    <section ref={root} aria-busy={isFetching}>
      <div className="flex flex-wrap items-end justify-between gap-3 mb-2">
        <div>
          <h1 className="text-2xl font-bold" aria-live="polite">
            {head.dueByHorizon} of {count(head.inScope, 'instrument')}
            {where} {plural(head.dueByHorizon, 'is', 'are')} due by {sayDayLong(head.horizon, today)}
          </h1>
          <p className="muted">
            {filters.due === 'all'
              ? 'Drag the marker above to look further ahead.'
              : `${head.matching} shown: ${DUE_CHOICES.find((d) => d.value === filters.due)?.label}.`}
          </p>
        </div>
        <div className="flex flex-wrap items-center gap-2">
          <a className="link" href={`/api/export/instruments.xlsx?${paramsOf(filters)}`} download>
            Download as .xlsx
          </a>
          <a className="btn" href="/programme/import">
            Import a list
          </a>
          <a className="btn" href="/instruments/new">
            Add an instrument
          </a>
        </div>
      </div>
      {/* One place for both, so that the rows stay under the pointer when the first is chosen. */}
      <div
        className={`min-h-[54px] mb-3 flex flex-wrap items-center gap-2 ${chosenRows.length > 0 ? 'sticky top-2 z-30' : ''}`}
      >
        {!(barShown && chosenRows.length > 0) && (
          <form
            className="flex flex-wrap items-center gap-2"
            onSubmit={(event: FormEvent) => event.preventDefault()}
            aria-label="Filter the fleet"
          >
            <input
              type="search"
              className="input w-44"
              placeholder="Search"
              aria-label="Search tag, place, holder or set"
              value={filters.q}
              onChange={(e) => set({ q: e.target.value })}
            />
            <select
              className="select w-auto"
              aria-label="Place"
              value={filters.place ?? ''}
              onChange={(e) => set({ place: e.target.value ? Number(e.target.value) : null })}
            >
              <option value="">all places</option>
              {places.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </select>
            <select
              className="select w-auto"
              aria-label="Family"
              value={filters.family ?? ''}
              onChange={(e) => set({ family: (e.target.value || null) as Filters['family'] })}
            >
              <option value="">all families</option>
              {families.map(([value, name]) => (
                <option key={value} value={value}>
                  {name}
                </option>
              ))}
            </select>
            <select
              className="select w-auto"
              aria-label="Condition"
              value={filters.due}
              onChange={(e) => set({ due: e.target.value as Filters['due'] })}
            >
              {DUE_CHOICES.map((d) => (
                <option key={d.value} value={d.value}>
                  {d.label}
                </option>
              ))}
            </select>
            {filtered && (
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                onClick={() => set({ q: '', place: null, family: null, due: 'all' })}
              >
                Clear
              </button>
            )}
          </form>
        )}
        {everChosen && (
          <Chosen
            today={today}
            rows={chosenRows}
            places={places}
            sets={sets}
            clear={() => setChosen(new Set())}
            changed={() => void refetch()}
            shown={() => setBarShown(true)}
          />
        )}
      </div>
      {error && (
        <p role="alert" className="text-error mb-2">
          The list could not be refreshed and may be out of date: {error.message}.{' '}
          <button type="button" className="link" onClick={() => void refetch()}>
            Try again
          </button>
        </p>
      )}
      <Table
        choice={{ chosen, choose, says: (row) => `Choose ${row.tag}` }}
        caption={`Instruments, ${rows.length} of ${head.matching} shown`}
        columns={columns}
        rows={rows}
        total={head.matching}
        keyOf={tagOf}
        sort={{ by: filters.sort, descending: filters.descending }}
        sortBy={sortBy}
        empty="No instruments match. Clear a filter or search for fewer words."
      />
      {hasNextPage && (
        <button ref={end} type="button" className="btn btn-ghost mt-2" onClick={() => void fetchNextPage()}>
          Show more ({head.matching - rows.length} left)
        </button>
      )}
    </section>
  );
}
