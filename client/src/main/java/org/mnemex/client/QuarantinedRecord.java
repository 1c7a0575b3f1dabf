package org.mnemex.client;

/**
 * A record that could not be read or mapped.
 *
 * @param since ISO 8601, UTC
 * @param dismissed whether somebody has dismissed it
 */
public record QuarantinedRecord(String recordKey, String reason, String since, boolean dismissed) {}
