export { createTeam, newControl, cancelBy, allowThreads, resume, type Team, type TeamOptions } from './team';
export { helpLoop, type HelperStart } from './helper';
export { kernelsVersion } from './module';
