package org.mnemex.sync.source;

import org.jspecify.annotations.Nullable;

/**
 * A value of bytes in a record that was read to have text taken out of it. Never part of a stored
 * record.
 *
 * @param bytes null if there are too many
 * @param size how many bytes there are
 */
public record Blob(byte @Nullable [] bytes, long size) {}
