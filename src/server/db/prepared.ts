import { is, Param, Placeholder } from 'drizzle-orm';
import type { Connection } from './connection';

type Bindable = string | number | bigint | Buffer | null;

/** An insert as the query builder makes it, before it is prepared. */
interface Buildable {
  readonly toSQL: () => { readonly sql: string; readonly params: readonly unknown[] };
}

/**
 * Prepares a query of the query builder directly with SQLite. An import runs it for every exchange; binding through the
 * builder each time would take as long as the insert itself.
 * @returns runs it with the value of each placeholder by name; absent values are null
 */
export function prepareDirectly<Column extends string>(
  { sqlite }: Connection,
  query: Buildable,
): (values: Readonly<Record<Column, unknown>>) => void {
  const { sql, params } = query.toSQL();
  const statement = sqlite.prepare(sql);
  const bindings = params.map(bindingOf);
  return (values) => void statement.run(bound(bindings, values));
}

/**
 * Prepares a reading query in the same way, for what asks for one row after the other: making the query anew each time
 * takes many times as long as the database does.
 * @returns gives the columns of the first row in the order in which they were asked for; undefined where there is none
 */
export function prepareFirst<Column extends string, Row extends readonly unknown[]>(
  { sqlite }: Connection,
  query: Buildable,
): (values: Readonly<Record<Column, unknown>>) => Row | undefined {
  const { sql, params } = query.toSQL();
  const statement = sqlite.prepare(sql).raw();
  const bindings = params.map(bindingOf);
  return (values) => statement.get(bound(bindings, values)) as Row | undefined;
}

/**
 * Prepares a reading query for many rows in the same way. They are read as they are taken; until the last is, or the loop
 * over them is left, the connection answers nothing else.
 * @returns gives rows, each as its columns in the order in which they were asked for
 */
export function prepareRows<Column extends string, Row extends readonly unknown[]>(
  { sqlite }: Connection,
  query: Buildable,
): (values: Readonly<Record<Column, unknown>>) => Iterable<Row> {
  const { sql, params } = query.toSQL();
  const statement = sqlite.prepare(sql).raw();
  const bindings = params.map(bindingOf);
  return (values) => statement.iterate(bound(bindings, values)) as Iterable<Row>;
}

const bound = (bindings: readonly Binding[], values: Readonly<Record<string, unknown>>): Bindable[] =>
  bindings.map((binding) => bindable('name' in binding ? values[binding.name] : binding.constant));

type Binding = { readonly name: string } | { readonly constant: unknown };

/** Columns wrap their placeholders, to encode values for the database; what is bound here is encoded by `bindable`. */
function bindingOf(param: unknown): Binding {
  const value: unknown = is(param, Param) ? param.value : param;
  return is(value, Placeholder) ? { name: value.name } : { constant: value };
}

function bindable(value: unknown): Bindable {
  if (value === undefined) return null;
  return typeof value === 'boolean' ? Number(value) : (value as Bindable);
}
