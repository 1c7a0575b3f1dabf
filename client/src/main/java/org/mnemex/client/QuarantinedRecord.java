package org.mnemex.client;

/**
 * A record that could not be read or mapped.
 *
 * @param since ISO 8601, UTC
 */
public record QuarantinedRecord(String recordKey, String reason, String since) {}
