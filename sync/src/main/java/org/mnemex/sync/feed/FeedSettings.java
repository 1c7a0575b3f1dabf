package org.mnemex.sync.feed;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;

/**
 * The settings of a feed.
 *
 * @param edition number of the edition that it feeds
 * @param readerName the feed's reader name at the source
 * @param origin what to fill the edition from; null for the database
 * @param shard the records that belong to the edition
 */
public record FeedSettings(
    IndexDefinition definition,
    int edition,
    Source source,
    String readerName,
    Pace pace,
    @Nullable StoredOrigin origin,
    Shard shard) {}
