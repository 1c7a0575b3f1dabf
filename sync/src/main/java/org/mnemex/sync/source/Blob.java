package org.mnemex.sync.source;

import org.jspecify.annotations.Nullable;

/**
 * Bytes in a record whose text is extracted. Never part of a stored record.
 *
 * @param bytes null if there are too many
 * @param size how many bytes there are
 */
public record Blob(byte @Nullable [] bytes, long size) {}
