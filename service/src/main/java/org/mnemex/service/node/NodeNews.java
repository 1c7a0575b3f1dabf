package org.mnemex.service.node;

import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.store.InsightMapper.WordsRow;

/**
 * What a builder tells a search node.
 *
 * @param upTo how much is known with this, to be shown with the next report
 * @param objects names of objects that were written to the store, none if nothing was written in
 *     time; null: any may have been written
 * @param words what is searched for on all machines together, by endpoint, the most frequent words
 *     first; null if that was not asked for
 */
record NodeNews(
    String upTo, @Nullable Set<String> objects, @Nullable Map<String, List<WordsRow>> words) {}
