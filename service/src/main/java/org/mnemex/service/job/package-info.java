/**
 * What takes long and runs by itself: begun, watched and cancelled by {@link
 * org.mnemex.service.job.Jobs}, told by {@link org.mnemex.service.job.JobController}.
 *
 * <p>Invariant: every job that began has an end on record, also one that a stop of the service
 * interrupted.
 */
@org.jspecify.annotations.NullMarked
package org.mnemex.service.job;
