package org.mnemex.client;

import java.util.List;

/**
 * Records that were asked for by key.
 *
 * @param results the records, in the order of the keys
 * @param missing keys without a record that the caller may see
 */
public record FoundRecords(
    List<SearchAnswer.Result> results, List<String> missing, SearchAnswer.AsOf asOf) {}
