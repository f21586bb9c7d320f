/**
 * Time: years to expiry, the session calendars of exchanges, classes of expiries.
 * Instants are milliseconds since the epoch (UTC); days are ISO dates in the zone of the exchange.
 * Imports contracts, and luxon for zones.
 */
export { instantAfter, yearsBetween, MINUTES_PER_YEAR, MILLISECONDS_PER_DAY } from './years';
export {
  calendarById,
  isCalendarId,
  closeOf,
  dayOf,
  instantOf,
  isSession,
  lastOfSessions,
  nextSession,
  previousSession,
  sessionClose,
  sessionsBetween,
  type Calendar,
} from './calendar';
export { expiryClass, expiryInstant, monthlyExpiry, type ExpiryClass } from './expiry';
