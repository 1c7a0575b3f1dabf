package org.mnemex.sync.source;

import java.util.Set;

/**
 * The readers of one installation.
 *
 * @param installation what tells it from others that follow the same databases
 * @param inUse names of readers that are fed now, as in {@link Source#capture}
 */
public record OwnReaders(String installation, Set<String> inUse) {
  public OwnReaders {
    inUse = Set.copyOf(inUse);
  }

  /** The name of an edition's reader. */
  public static String name(String keptAs, int edition, String installation) {
    return "%s/%d@%s".formatted(keptAs, edition, installation);
  }

  /** Whether a reader is one of this installation that nobody feeds. */
  public boolean isLeftOver(String reader) {
    return reader.endsWith("@" + installation) && !inUse.contains(reader);
  }

  /** Whether a reader belongs to another installation. */
  public boolean isForeign(String reader) {
    return !reader.endsWith("@" + installation);
  }
}
