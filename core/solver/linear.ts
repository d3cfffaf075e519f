import type { Highs, Model } from 'highs';

/** A reduced cost below this is nothing but rounding. */
const ROUNDING = 1e-7;

/**
 * A mixed-integer linear program to minimise, built column by column and row by row, and solved by HiGHS. Columns and
 * rows are named by the number they are given in order.
 */
export class LinearProgram {
  private readonly cost: number[] = [];
  private readonly lower: number[] = [];
  private readonly upper: number[] = [];
  private readonly whole: number[] = [];
  private readonly rowLower: number[] = [];
  private readonly rowUpper: number[] = [];
  private readonly starts: number[] = [0];
  private readonly indices: number[] = [];
  private readonly values: number[] = [];

  get columns(): number {
    return this.cost.length;
  }

  get rows(): number {
    return this.rowLower.length;
  }

  /** Adds a variable between bounds; returns its number. */
  column(cost: number, lower: number, upper: number, integer: boolean): number {
    this.cost.push(cost);
    this.lower.push(lower);
    this.upper.push(upper);
    this.whole.push(integer ? 1 : 0);
    return this.cost.length - 1;
  }

  /** Adds lower ≤ Σ value × column ≤ upper; a column that is named twice counts with both values. Returns its number. */
  row(lower: number, upper: number, terms: readonly (readonly [column: number, value: number])[]): number {
    this.rowLower.push(lower);
    this.rowUpper.push(upper);
    // A solver takes each column once.
    const values = new Map<number, number>();
    for (const [column, value] of terms) values.set(column, (values.get(column) ?? 0) + value);
    for (const [column, value] of values) {
      this.indices.push(column);
      this.values.push(value);
    }
    this.starts.push(this.indices.length);
    return this.rowLower.length - 1;
  }

  /** The objective at a point, and by how much the point breaks bounds and rows at most. */
  evaluate(x: readonly number[]): { objective: number; violation: number } {
    let violation = 0;
    let objective = 0;
    for (let c = 0; c < this.columns; c++) {
      const at = x[c] ?? 0;
      objective += (this.cost[c] as number) * at;
      violation = Math.max(violation, (this.lower[c] as number) - at, at - (this.upper[c] as number));
    }
    for (let r = 0; r < this.rows; r++) {
      let sum = 0;
      for (let k = this.starts[r] as number; k < (this.starts[r + 1] as number); k++)
        sum += (this.values[k] as number) * (x[this.indices[k] as number] ?? 0);
      violation = Math.max(violation, (this.rowLower[r] as number) - sum, sum - (this.rowUpper[r] as number));
    }
    return { objective, violation };
  }

  /**
   * A value that no feasible point is below, from multipliers of the rows: Σ y·(the side of the row it presses on) plus
   * the least of each column by its reduced cost (weak duality; Chvátal 1983, ch. 5). It holds for any multipliers, of a
   * solver that has finished or was stopped anywhere; good ones make it tight. Minus infinity where a column without an
   * end would have to be below nothing.
   */
  dualBound(multipliers: readonly number[]): number {
    const pressed = new Float64Array(this.columns);
    let rows = 0;
    for (let r = 0; r < this.rows; r++) {
      const given = multipliers[r] ?? 0;
      const side = given > 0 ? (this.rowLower[r] as number) : (this.rowUpper[r] as number);
      // A row that has no side there cannot be pressed on.
      if (!Number.isFinite(given) || given === 0 || !Number.isFinite(side)) continue;
      rows += given * side;
      for (let k = this.starts[r] as number; k < (this.starts[r + 1] as number); k++) {
        const column = this.indices[k] as number;
        pressed[column] = (pressed[column] as number) + given * (this.values[k] as number);
      }
    }
    // Columns without an end must not gain by growing: all multipliers give way together until none does.
    let share = 1;
    for (let c = 0; c < this.columns; c++) {
      const by = pressed[c] as number;
      const cost = this.cost[c] as number;
      const open = cost - by > 0 ? (this.lower[c] as number) : (this.upper[c] as number);
      // What is left of rounding gains nothing; taken for a gain, it would make all multipliers give way for nothing.
      if (Number.isFinite(open) || Math.abs(cost - by) < ROUNDING) continue;
      share = Math.min(share, by === 0 ? 0 : Math.max(0, cost / by));
    }
    let bound = share * rows;
    for (let c = 0; c < this.columns; c++) {
      const d = (this.cost[c] as number) - share * (pressed[c] as number);
      if (Math.abs(d) < 1e-12) continue;
      const at = d > 0 ? (this.lower[c] as number) : (this.upper[c] as number);
      // What is left of rounding where a column without an end costs nothing.
      if (!Number.isFinite(at) && Math.abs(d) < ROUNDING) continue;
      bound += d * at;
    }
    return Number.isNaN(bound) ? Number.NEGATIVE_INFINITY : bound;
  }

  /** The program in the solver's own form. The caller disposes of it. */
  private modelIn(highs: Highs) {
    const c = highs.constants;
    return highs.createModel({
      numCols: this.columns,
      numRows: this.rows,
      colCost: Float64Array.from(this.cost),
      colLower: Float64Array.from(this.lower),
      colUpper: Float64Array.from(this.upper, (v) => (Number.isFinite(v) ? v : highs.infinity)),
      rowLower: Float64Array.from(this.rowLower, (v) => (Number.isFinite(v) ? v : -highs.infinity)),
      rowUpper: Float64Array.from(this.rowUpper, (v) => (Number.isFinite(v) ? v : highs.infinity)),
      integrality: this.whole.map((w) => (w ? c.variableType.integer : c.variableType.continuous)),
      matrix: {
        format: 'csr',
        numRows: this.rows,
        numCols: this.columns,
        starts: Int32Array.from(this.starts),
        indices: Int32Array.from(this.indices),
        values: Float64Array.from(this.values),
      },
    });
  }

  private configure(model: Model, options: Pick<SolveOptions, 'seconds' | 'gap'>): void {
    model.options.set({
      output_flag: false,
      time_limit: options.seconds ?? 30,
      mip_rel_gap: options.gap ?? 1e-6,
      random_seed: 0,
    });
  }

  /**
   * Solves it. A point to start from may be given; it is used when it is feasible.
   * @returns the best point found with its objective and the proven bound; null where none exists or none was found
   */
  solve(highs: Highs, options: SolveOptions = {}): LinearSolution | null {
    if (this.columns === 0)
      return this.evaluate([]).violation > 0 ? null : { x: [], objective: 0, bound: 0, duals: [] };
    const c = highs.constants;
    const model = this.modelIn(highs);
    try {
      this.configure(model, options);
      if (options.start) model.setSolution({ colValue: Float64Array.from(options.start) });
      model.run(
        options.improved
          ? {
              [c.callbackType.mipImprovingSolution]: (event) => {
                const { mip_solution: x, objective_function_value: objective } = event.data;
                if (x) options.improved?.(Array.from(x), Number(objective));
              },
            }
          : undefined,
      );
      const x = Array.from(model.getSolution().colValue);
      const { objective, violation } = this.evaluate(x);
      const integer = this.whole.includes(1);
      const duals = Array.from(model.getSolution().rowDual ?? []);
      if (violation > 1e-4) return null;
      const bound = integer ? Number(model.info.get('mip_dual_bound')) : this.dualBound(duals);
      return { x, objective, bound, duals };
    } finally {
      model.dispose();
    }
  }
}

export interface SolveOptions {
  seconds?: number;
  /** Relative gap at which it is good enough. */
  gap?: number;
  start?: readonly number[];
  /** Called with each better point on the way. */
  improved?: (x: number[], objective: number) => void;
}

export interface LinearSolution {
  x: number[];
  objective: number;
  /** Nothing can be below this. */
  bound: number;
  /** Multipliers of the rows, where the program has no integers. */
  duals: number[];
}
