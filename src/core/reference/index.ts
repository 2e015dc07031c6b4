// Headers, statuses, phases, errors and the words used here explained, with where their standards say so.

export { TOPICS } from './entry';
export { tellDirectiveHere, tellHeaderHere } from './here';
export {
  explainDirectives,
  findHeaderEntry,
  findMethodEntry,
  findStatusEntry,
  groupHeaders,
  headerGroup,
  headerNames,
  searchReference,
} from './look-up';
