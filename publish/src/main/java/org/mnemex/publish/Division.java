package org.mnemex.publish;

import java.io.IOException;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.ReplacedException;
import org.mnemex.publish.store.StoredObject;

/**
 * Into how many shards the indexes of a store are divided: the object {@code division}, as JSON.
 * Each shard has a builder, which writes under a name of its own as if the store had no other. A
 * store without this object is not divided. It never changes.
 *
 * @param format version of this form
 * @param shards how many there are, from 2
 */
public record Division(int format, int shards) {
  /** More than anybody needs; each is followed for itself. */
  public static final int MAX_SHARDS = 256;

  /** The name of the object. */
  static final String OBJECT = "division";

  private static final int FORMAT = 1;

  /**
   * Notes how a store is divided, or compares with what was noted.
   *
   * @param store the whole store
   * @param shards into how many the caller divides it; 1: it does not
   * @throws DividedOtherwiseException if it is divided otherwise
   * @throws IOException if the store cannot be reached, or has what a newer version has written
   */
  public static void agree(ObjectStore store, int shards) throws IOException {
    Division found = of(store);
    if (found == null && store.get(Catalogue.OBJECT) != null) {
      found = new Division(FORMAT, 1);
    }
    if (found == null && shards > 1) {
      try {
        store.replace(OBJECT, Json.write(new Division(FORMAT, shards)), null);
        return;
      } catch (ReplacedException e) {
        // The builder of another shard was faster.
        found = of(store);
      }
    }
    if (found != null && found.shards != shards) {
      throw new DividedOtherwiseException(store.place(), found.shards, shards);
    }
  }

  /**
   * How a store is divided.
   *
   * @param store the whole store
   * @return null if it is not, or nothing is published yet
   * @throws IOException if the store cannot be reached, or has what a newer version has written
   */
  public static @Nullable Division of(ObjectStore store) throws IOException {
    StoredObject found = store.get(OBJECT);
    if (found == null) {
      return null;
    }
    Division division = Json.read(OBJECT, found.content(), Division.class, FORMAT);
    if (division.shards < 2 || division.shards > MAX_SHARDS) {
      throw new IOException(
          "'%s' says %d shards; there may be 2 to %d"
              .formatted(OBJECT, division.shards, MAX_SHARDS));
    }
    return division;
  }

  /** What the names of all objects of a shard begin with. */
  public static String prefix(int shard) {
    return "shards/" + shard + "/";
  }
}
