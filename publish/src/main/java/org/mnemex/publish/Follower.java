package org.mnemex.publish;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.StoredObject;

/**
 * Sees what a builder offers in a store. What was seen last is remembered on the disk, so that a
 * machine that starts while the store is away answers as it did.
 *
 * <p>One thread at a time may call it.
 */
public final class Follower {
  private static final String REMEMBERED = "offer.json";

  private final ObjectStore store;
  private final Path folder;
  private final Map<String, Known> known = new HashMap<>();

  /** An object that was seen, as it was read. */
  private record Known(String tag, Object value) {}

  /**
   * What a builder offers.
   *
   * @param format version of this form
   * @param content the editions that answer, and what belongs to them
   * @param editions the manifest of each of them
   */
  public record Offer(int format, Catalogue.Content content, List<EditionManifest> editions) {
    /** The manifest of an edition that answers. */
    public EditionManifest edition(EditionName name) {
      return editions.stream()
          .filter(one -> one.state().edition().equals(name))
          .findFirst()
          .orElseThrow(() -> new IllegalArgumentException(name + " is not offered"));
    }
  }

  /**
   * @param folder where what was seen is remembered; made if it is not there
   */
  public Follower(ObjectStore store, Path folder) throws IOException {
    this.store = store;
    this.folder = Files.createDirectories(folder);
  }

  /**
   * What is offered now, as far as can be seen in all that the builder writes.
   *
   * @return null if nothing is offered yet
   * @throws IOException if the store cannot be reached, or has what a newer version has written
   */
  public @Nullable Offer look() throws IOException {
    return look(null);
  }

  /**
   * What is offered now.
   *
   * @param written the names of the objects that may have been written since the last look; what
   *     has been seen of others still counts. Null: any
   * @return null if nothing is offered yet
   * @throws IOException if the store cannot be reached, or has what a newer version has written
   */
  public @Nullable Offer look(@Nullable Set<String> written) throws IOException {
    // An edition may go between two looks; the catalogue was changed before then.
    for (int tried = 1; ; tried++) {
      Set<String> looked = tried == 1 ? written : null;
      Catalogue catalogue = see(Catalogue.OBJECT, Catalogue.class, Catalogue.FORMAT, looked);
      if (catalogue == null) {
        return null;
      }
      List<EditionManifest> manifests = new ArrayList<>();
      for (EditionName name : catalogue.content().live()) {
        EditionManifest manifest =
            see(name.object(), EditionManifest.class, EditionManifest.FORMAT, looked);
        if (manifest != null) {
          manifests.add(manifest);
        }
      }
      if (manifests.size() == catalogue.content().live().size()) {
        known
            .keySet()
            .removeIf(
                object ->
                    Stream.concat(
                            Stream.of(Catalogue.OBJECT),
                            catalogue.content().live().stream().map(EditionName::object))
                        .noneMatch(object::equals));
        return new Offer(Catalogue.FORMAT, catalogue.content(), manifests);
      }
      if (tried == 2) {
        throw new IOException(
            "the catalogue in the store %s names an edition that is not there"
                .formatted(store.place()));
      }
    }
  }

  private <T> @Nullable T see(String name, Class<T> type, int format, @Nullable Set<String> written)
      throws IOException {
    Known before = known.get(name);
    if (before != null && written != null && !written.contains(name)) {
      return type.cast(before.value());
    }
    StoredObject found = before == null ? store.get(name) : store.getIfOther(name, before.tag());
    if (found == null) {
      return before == null ? null : type.cast(before.value());
    }
    T value = Json.read(name, found.content(), type, format);
    known.put(name, new Known(found.tag(), value));
    return value;
  }

  /** What was remembered; null if nothing was, or it cannot be read. */
  public @Nullable Offer remembered() throws IOException {
    try {
      return Json.read(
          REMEMBERED,
          Files.readAllBytes(folder.resolve(REMEMBERED)),
          Offer.class,
          Catalogue.FORMAT);
    } catch (NoSuchFileException e) {
      return null;
    }
  }

  /** Remembers an offer whose files are all here. */
  public void remember(Offer offer) throws IOException {
    Path whole = folder.resolve(REMEMBERED + ".tmp");
    Files.write(whole, Json.write(offer));
    Files.move(whole, folder.resolve(REMEMBERED), StandardCopyOption.ATOMIC_MOVE);
  }
}
