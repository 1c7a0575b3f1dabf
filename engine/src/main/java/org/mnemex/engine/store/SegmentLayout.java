package org.mnemex.engine.store;

/**
 * The bytes of a segment file; {@code docs/index-format.md} describes them in words.
 *
 * <pre>
 * offset  size  what
 *      0     8  magic "MNEMEXSG"
 *      8     4  format version
 *     12     4  number of documents
 *     16     8  segment id
 *     24     …  sections, one after the other
 *      t     …  table of contents: count u32, then per section
 *                 kind u32, field u32, offset u64, length u64, CRC-32C u32
 *  end-28     8  offset t of the table of contents
 *  end-20     4  CRC-32C of the header and the table of contents
 *  end-16     4  CRC-32C of the bytes 0 to end-16
 *  end-12     4  format version
 *   end-8     8  magic "MNEMEXEN"
 * </pre>
 */
public final class SegmentLayout {
  public static final long MAGIC = magic("MNEMEXSG");
  public static final long END_MAGIC = magic("MNEMEXEN");
  public static final int VERSION = 1;
  public static final int HEADER_BYTES = 24;
  public static final int FOOTER_BYTES = 28;

  /** The field number of sections that belong to the whole segment. */
  public static final int NO_FIELD = -1;

  /** Names and signatures of the fields. */
  public static final int FIELDS = 1;

  /** Keys in order, with their documents. */
  public static final int KEYS = 2;

  /** For each document its key's place in KEYS. */
  public static final int KEY_PLACES = 3;

  /** For each document its content hash. */
  public static final int HASHES = 4;

  /** Compressed blocks of stored documents, each with its own checksum. */
  public static final int STORED = 5;

  /** Where the blocks of STORED begin. */
  public static final int STORED_BLOCKS = 6;

  /** Says of most keys that they are not here. */
  public static final int KEY_FILTER = 7;

  /** A field's terms in order of their UTF-8 bytes. */
  public static final int TERMS = 10;

  /** A field's documents, frequencies and impacts by term. */
  public static final int POSTINGS = 11;

  /** A text field's positions by term and document. */
  public static final int POSITIONS = 12;

  /** A text field's length by document. */
  public static final int LENGTHS = 13;

  /** Shape of a column and which rows have a value. */
  public static final int COLUMN = 20;

  /** Index of each row's first value. */
  public static final int COLUMN_FIRSTS = 21;

  /** A numeric field's values, or an exact field's places in VALUES. */
  public static final int COLUMN_VALUES = 22;

  /** An exact field's distinct values in order of their UTF-8 bytes. */
  public static final int VALUES = 23;

  /** For each of VALUES its rank without regard to case and accents. */
  public static final int FOLDED_RANKS = 24;

  /** Latitudes of a place field, by row. */
  public static final int LATITUDES = 30;

  /** Longitudes of a place field, by row. */
  public static final int LONGITUDES = 31;

  /** Cells of a place field with their documents. */
  public static final int CELLS = 32;

  /** Index of each document's first child row. */
  public static final int GROUP_FIRSTS = 40;

  private SegmentLayout() {}

  private static long magic(String ascii) {
    long value = 0;
    for (int i = 7; i >= 0; i--) {
      value = value << 8 | ascii.charAt(i);
    }
    return value;
  }
}
