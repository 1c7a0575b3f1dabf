package org.mnemex.sync.postgres;

import java.util.Locale;

/** Names of replication slots. Their end identifies the installation. */
final class SlotNames {
  private static final int MAX_NAME = 63;
  private static final String SHARED = "shared/";

  private SlotNames() {}

  /** The slot of a reader, or of a name that ends like one. Long names are cut at the front. */
  static String slot(String reader) {
    String slot = "mnemex_" + cleaned(reader);
    if (slot.length() <= MAX_NAME) {
      return slot;
    }
    String end = "_" + Integer.toHexString(reader.hashCode()) + end(installation(reader));
    return slot.substring(0, MAX_NAME - end.length()) + end;
  }

  /** The slot that all readers of a source share. */
  static String shared(String source, String installation) {
    return slot(SHARED + source + "@" + installation);
  }

  /** Whether a slot is the one that all readers of some source share. */
  static boolean isShared(String slot) {
    return slot.startsWith("mnemex_" + cleaned(SHARED));
  }

  /** The end of an installation's slots. */
  static String end(String installation) {
    return "_" + cleaned(installation);
  }

  /** The installation of a reader. */
  static String installation(String reader) {
    return reader.substring(reader.lastIndexOf('@') + 1);
  }

  private static String cleaned(String text) {
    return text.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9_]", "_");
  }
}
