/** Runs the program of a thread from its sources, where nothing has been bundled: its address comes as the first argument. */
import { register } from 'tsx/esm/api';

register();
const program = await import(process.argv[2] ?? '');
export default program.default;
