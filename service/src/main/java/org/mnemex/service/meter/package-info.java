/**
 * What the service counts and measures about itself, for a monitoring system to fetch: indexes by
 * {@link org.mnemex.service.meter.IndexMeters}. Searches and jobs are timed where they end.
 */
@org.jspecify.annotations.NullMarked
package org.mnemex.service.meter;
