/**
 * Who may do what: {@link org.mnemex.service.access.Keys} and {@link
 * org.mnemex.service.access.Tokens} say who calls, {@link org.mnemex.service.access.Routes} what
 * each right allows, {@link org.mnemex.service.access.ActivityLog} what was done.
 *
 * <p>Invariant: a route without an entry in {@link org.mnemex.service.access.Routes} is refused,
 * and the filters of a caller are part of every request that it makes to the engine.
 */
@org.jspecify.annotations.NullMarked
package org.mnemex.service.access;
