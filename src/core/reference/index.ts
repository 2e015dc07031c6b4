// Headers, statuses, methods and cache directives explained in our own words, with where their standards say so.

export { tellDirectiveHere, tellHeaderHere } from './here';
export {
  explainDirectives,
  findHeaderEntry,
  findMethodEntry,
  findStatusEntry,
  groupHeaders,
  headerGroup,
  searchReference,
} from './look-up';
