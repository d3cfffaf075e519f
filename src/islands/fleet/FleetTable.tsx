import { keepPreviousData, QueryClient, QueryClientProvider, useInfiniteQuery } from '@tanstack/react-query';
import { type FormEvent, useEffect, useRef, useState } from 'react';
import type { FleetQuery } from '../../../contract/fleet';
import { type LocalDate, sayDay, sayDayLong } from '../../../core/dates';
import { decodeStrip } from '../../../core/wear/strip';
import type { FleetPage, FleetRow } from '../../../server/fleet/list';
import { StringStrip } from '../../components/StringStrip';
import { dueChip } from '../../components/words';

interface Props {
  first: FleetPage;
  query: FleetQuery;
  today: LocalDate;
  now: number;
  horizon: LocalDate;
  timeZone: string;
  places: { id: number; name: string }[];
  families: [string, string][];
}

type Filters = Omit<FleetQuery, 'offset' | 'limit'>;

const COLUMNS: { sort: FleetQuery['sort'] | null; title: string; hide: string }[] = [
  { sort: 'tag', title: 'Tag', hide: '' },
  { sort: null, title: 'Strings', hide: 'hidden sm:table-cell' },
  { sort: 'instrument', title: 'Instrument', hide: '' },
  { sort: 'place', title: 'Place', hide: 'hidden lg:table-cell' },
  { sort: null, title: 'With', hide: 'hidden lg:table-cell' },
  { sort: 'due', title: 'Due', hide: '' },
  { sort: null, title: 'Because', hide: 'hidden md:table-cell' },
  { sort: 'changed', title: 'Last change', hide: 'hidden xl:table-cell' },
];

const DUE_CHOICES: { value: Filters['due']; label: string }[] = [
  { value: 'all', label: 'any state' },
  { value: 'horizon', label: 'due by the horizon' },
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
      <Table {...props} />
    </QueryClientProvider>
  );
}

function Table({ first, query, today, now, horizon: startHorizon, timeZone, places, families }: Props) {
  const { offset: _o, limit, ...startFilters } = query;
  const [filters, setFilters] = useState<Filters>(startFilters);
  const [horizon, setHorizon] = useState(startHorizon);
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

  const { data, error, isFetching, fetchNextPage, hasNextPage, refetch } = useInfiniteQuery({
    queryKey: ['fleet', filters, horizon],
    queryFn: async ({ pageParam, signal }): Promise<FleetPage> => {
      const params = paramsOf(filters);
      params.set('offset', String(pageParam));
      params.set('limit', String(limit));
      params.set('horizon', horizon);
      const answer = await fetch(`/api/fleet?${params}`, { signal });
      if (!answer.ok) throw new Error(`the server answered ${answer.status}`);
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
  const rows = pages.flatMap((p) => p.rows);

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

  const set = (change: Partial<Filters>) => setFilters((f) => ({ ...f, ...change }));
  const sortBy = (sort: FleetQuery['sort']) =>
    set({ sort, descending: filters.sort === sort ? !filters.descending : false });
  const filtered = filters.q !== '' || filters.place !== null || filters.family !== null || filters.due !== 'all';
  const where = filters.place === null ? '' : ` at ${places.find((p) => p.id === filters.place)?.name}`;

  return (
    <section aria-busy={isFetching}>
      <div className="flex flex-wrap items-end justify-between gap-3 mb-2">
        <div>
          <h1 className="text-2xl font-bold" aria-live="polite">
            {head.dueByHorizon} of {head.inScope} instruments{where} are due by {sayDayLong(head.horizon, today)}
          </h1>
          <p className="muted">
            {filters.due === 'all'
              ? 'Drag the marker above to look further ahead.'
              : `${head.matching} shown: ${DUE_CHOICES.find((d) => d.value === filters.due)?.label}.`}
          </p>
        </div>
        <a className="btn" href="/instruments/new">
          Add an instrument
        </a>
      </div>
      <form
        className="flex flex-wrap items-center gap-2 mb-3"
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
          aria-label="State"
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
      {error && (
        <p role="alert" className="text-error mb-2">
          The list could not be brought up to date: {error.message}.{' '}
          <button type="button" className="link" onClick={() => void refetch()}>
            Try again
          </button>
        </p>
      )}
      <div className="card-paper overflow-hidden">
        <table className="w-full table-fixed text-left">
          <caption className="sr-only">
            Instruments, {rows.length} of {head.matching} shown
          </caption>
          <colgroup>
            <col className="w-[5.9rem]" />
            <col className="hidden sm:table-column w-[138px]" />
            <col />
            <col className="hidden lg:table-column w-[7.4rem]" />
            <col className="hidden lg:table-column w-[6.8rem]" />
            <col className="w-[8rem]" />
            <col className="hidden md:table-column w-[11.5rem]" />
            <col className="hidden xl:table-column w-[7.4rem] 2xl:w-[18rem]" />
          </colgroup>
          <thead className="text-sm">
            <tr>
              {COLUMNS.map((c) => (
                <th
                  key={c.title}
                  scope="col"
                  className={`px-2.5 py-2 font-semibold ${c.hide}`}
                  aria-sort={c.sort === filters.sort ? (filters.descending ? 'descending' : 'ascending') : undefined}
                >
                  {c.sort ? (
                    <button
                      type="button"
                      className="cursor-pointer font-semibold whitespace-nowrap"
                      onClick={() => c.sort && sortBy(c.sort)}
                    >
                      {c.title}
                      <span aria-hidden="true" className="inline-block w-4 pl-1">
                        {c.sort === filters.sort ? (filters.descending ? '↓' : '↑') : ''}
                      </span>
                    </button>
                  ) : (
                    c.title
                  )}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <Row key={row.tag} row={row} at={{ today, now, horizon, timeZone }} />
            ))}
          </tbody>
        </table>
        {rows.length === 0 && (
          <p className="p-6 muted">No instrument fits these filters. Clear one of them, or search for less.</p>
        )}
      </div>
      {hasNextPage && (
        <button ref={end} type="button" className="btn btn-ghost mt-2" onClick={() => void fetchNextPage()}>
          Show more ({head.matching - rows.length} left)
        </button>
      )}
    </section>
  );
}

function Row({
  row,
  at,
}: {
  row: FleetRow;
  at: { today: LocalDate; now: number; horizon: LocalDate; timeZone: string };
}) {
  const chip = dueChip(row, at);
  return (
    <tr className="relative border-t border-base-300 h-[46px] hover:bg-base-100 focus-within:bg-base-100">
      <th scope="row" className="px-2.5 font-normal">
        <a className="tag after:absolute after:inset-0" href={`/instruments/${row.tag}`}>
          {row.tag}
        </a>
      </th>
      <td className="px-2.5 hidden sm:table-cell">
        <StringStrip strings={decodeStrip(row.strip)} width={118} height={26} />
      </td>
      <td className="px-2.5 truncate">{row.name}</td>
      <td className="px-2.5 truncate muted hidden lg:table-cell">{row.place}</td>
      <td className="px-2.5 truncate muted hidden lg:table-cell">{row.holder}</td>
      <td className="px-2.5">
        <span className={`chip chip-${chip.kind}`}>{chip.text}</span>
      </td>
      <td className="px-2.5 truncate hidden md:table-cell" title={row.because}>
        {row.because}
      </td>
      <td className="px-2.5 truncate muted hidden xl:table-cell" title={row.changedWhat}>
        {row.changedOn ? sayDay(row.changedOn, at.today) : 'not on record'}
        {row.changedOn && <span className="hidden 2xl:inline">, {row.changedWhat}</span>}
      </td>
    </tr>
  );
}
