package org.mnemex.client;

/**
 * An administrative act.
 *
 * @param id grows with time
 * @param at when, ISO 8601, UTC
 * @param keyId the caller's key; {@code local} without keys, {@code none} without a valid key
 * @param caller name of the caller
 * @param address where the call came from
 * @param act what was asked, such as {@code POST /api/definitions}
 * @param target what it was about, such as {@code plants}; empty if nothing in particular
 * @param status HTTP status of the answer
 */
public record ActivityEntry(
    long id,
    String at,
    String keyId,
    String caller,
    String address,
    String act,
    String target,
    int status) {}
