package org.mnemex.sync.source;

import java.util.Set;

/**
 * The readers of one installation.
 *
 * @param installation the identifier of the installation
 * @param inUse names of readers in use, as in {@link Source#capture}
 */
public record OwnReaders(String installation, Set<String> inUse) {
  public OwnReaders {
    inUse = Set.copyOf(inUse);
  }

  /** The name of an edition's reader. */
  public static String name(String keptAs, int edition, String installation) {
    return "%s/%d@%s".formatted(keptAs, edition, installation);
  }

  /** Whether a reader of this installation is orphaned. */
  public boolean isLeftOver(String reader) {
    return reader.endsWith("@" + installation) && !inUse.contains(reader);
  }

  /** Whether a reader belongs to another installation. */
  public boolean isForeign(String reader) {
    return !reader.endsWith("@" + installation);
  }
}
