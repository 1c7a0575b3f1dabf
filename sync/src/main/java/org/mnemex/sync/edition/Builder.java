package org.mnemex.sync.edition;

import org.mnemex.sync.source.Shard;

/**
 * Who builds editions.
 *
 * @param installation identifies this installation among those that follow the same source
 * @param shard the records that it builds
 */
public record Builder(String installation, Shard shard) {}
