import { version } from '../../../../../package.json';

/** Version of the application. */
export const VERSION: string = version;
