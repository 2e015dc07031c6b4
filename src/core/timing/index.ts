// Time: the in-flight profile of a load.
export { idleMs, type ProfileStep, profileInFlight } from './profile';
