package org.mnemex.engine.inspect;

import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import org.mnemex.engine.store.SegmentLayout;

/** What bytes of segments are for. */
public enum Part {
  /** What results show, compressed. */
  STORED,
  /** Keys of documents, and content hashes. */
  KEYS,
  /** Terms of fields. */
  TERMS,
  /** Which documents have a term, and how often. */
  POSTINGS,
  /** Where in a text a term is: for phrases, closeness and highlights. */
  POSITIONS,
  /** How long texts are. */
  LENGTHS,
  /** Values by document: for facets, sorting and ranges. */
  COLUMNS,
  /** Places and their cells. */
  PLACES,
  /** Which rows belong to a document. */
  GROUPS;

  /** Its name, such as {@code postings}. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** The same bytes by the names of their parts. */
  public static Map<String, Long> byWord(Map<Part, Long> bytes) {
    Map<String, Long> named = new TreeMap<>();
    bytes.forEach((part, size) -> named.put(part.word(), size));
    return named;
  }

  /** The part that a kind of section belongs to. */
  static Part of(int kind) {
    return switch (kind) {
      case SegmentLayout.STORED, SegmentLayout.STORED_BLOCKS -> STORED;
      case SegmentLayout.TERMS -> TERMS;
      case SegmentLayout.POSTINGS -> POSTINGS;
      case SegmentLayout.POSITIONS -> POSITIONS;
      case SegmentLayout.LENGTHS -> LENGTHS;
      case SegmentLayout.COLUMN,
          SegmentLayout.COLUMN_FIRSTS,
          SegmentLayout.COLUMN_VALUES,
          SegmentLayout.VALUES,
          SegmentLayout.FOLDED_RANKS ->
          COLUMNS;
      case SegmentLayout.LATITUDES, SegmentLayout.LONGITUDES, SegmentLayout.CELLS -> PLACES;
      case SegmentLayout.GROUP_FIRSTS -> GROUPS;
      default -> KEYS;
    };
  }
}
