package org.mnemex.engine.search;

import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;

/**
 * The first documents of an order that match, found without looking at all that do: a few from the
 * beginning of the order are tried, then more of them.
 */
final class FirstDocuments {
  private static final int TRIED_FIRST = 512;
  private static final int GROWTH = 8;

  /** Trying more of a segment than this share costs as much as looking at all that match. */
  private static final int SHARE = 4;

  private final int[] documents;
  private final DocBits eligible;
  private final SegmentFilter filter;
  private final Budget budget;

  /**
   * @param documents the documents of a segment in the wanted order
   * @param eligible those that may be results
   */
  FirstDocuments(int[] documents, DocBits eligible, SegmentFilter filter, Budget budget) {
    this.documents = documents;
    this.eligible = eligible;
    this.filter = filter;
    this.budget = budget;
  }

  /**
   * Offers the first of the documents that a query finds.
   *
   * @return whether they filled what was wanted; otherwise nothing was offered
   */
  boolean offer(Query query, SegmentTop top, int wanted) {
    for (int tried = TRIED_FIRST; tried <= documents.length / SHARE; tried *= GROWTH) {
      DocBits found = matching(query, tried);
      if (found.count() >= wanted) {
        top.offerFirst(documents, found, budget);
        return true;
      }
    }
    return false;
  }

  private DocBits matching(Query query, int tried) {
    DocBits some = new DocBits(eligible.size());
    for (int i = 0; i < tried && budget.step(); i++) {
      if (eligible.get(documents[i])) {
        some.set(documents[i]);
      }
    }
    DocBits found = new DocBits(eligible.size());
    Matcher matcher = filter.matcher(query);
    for (int doc = some.next(0); doc >= 0 && budget.step(); ) {
      int at = matcher.advance(doc);
      if (at == Matcher.END) {
        break;
      }
      if (at == doc) {
        found.set(doc);
      }
      doc = some.next(at == doc ? doc + 1 : at);
    }
    return found;
  }
}
