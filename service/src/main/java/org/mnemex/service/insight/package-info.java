/**
 * What people search for and what they find: counted by {@link
 * org.mnemex.service.insight.RecordedSearches}, told by {@link
 * org.mnemex.service.insight.InsightController}.
 *
 * <p>Invariant: nothing says who searched, and a search never waits for a disk.
 */
@org.jspecify.annotations.NullMarked
package org.mnemex.service.insight;
