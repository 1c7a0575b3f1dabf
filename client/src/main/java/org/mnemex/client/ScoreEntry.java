package org.mnemex.client;

/**
 * A recorded score.
 *
 * @param scorecardVersion version of the scorecard's definition
 * @param indexVersion version of the index definition that the edition had
 * @param at ISO 8601
 */
public record ScoreEntry(
    int scorecardVersion,
    int edition,
    int indexVersion,
    String at,
    double ndcg,
    double reciprocalRank,
    double precision,
    double recall) {}
