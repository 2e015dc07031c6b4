import { later } from '../ui/later';

/** The chart of loads, whose script is five times that of the comparison around it. */
export const LoadChart = later(() => import('./LoadChart'));

/** What it takes with its caption. */
export const LOAD_CHART_PX = 168;
