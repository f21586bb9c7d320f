/** Values whole snapshots, which takes too long for the thread that answers. */
import { valuedBytes } from './valuing';

export default valuedBytes;
