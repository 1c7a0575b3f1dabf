package org.mnemex.publish;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.file.Bandwidth;
import org.mnemex.publish.file.FileSender;
import org.mnemex.publish.file.PublishedFile;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.ReplacedException;
import org.mnemex.publish.store.StoredObject;

/**
 * Writes editions to a store, for others to follow.
 *
 * <h2>One writer</h2>
 *
 * <p>Each run of an installation takes a turn of its own, whose number is in everything that it
 * writes. Beginning, it replaces the catalogue and all manifests by the same with its own turn. An
 * object is only replaced if it still is the one that this run has written, so an earlier run that
 * still works, or that was suspended and wakes up, fails at its next write, and stops.
 *
 * <h2>Order</h2>
 *
 * <p>Parts of files come first, then the manifest that names them, then the catalogue that names
 * the edition; what is no longer named goes in the opposite order. Parts go after a time of grace,
 * in which others may still fetch what an earlier manifest named. A crash leaves parts that nobody
 * names, which go like these.
 *
 * <p>One thread at a time may call it; others may ask what was published. A call that fails can be
 * repeated.
 */
public final class Publisher implements AutoCloseable {
  /** Somebody else may be faster a few times, but not forever. */
  private static final int TRIES = 5;

  private final ObjectStore store;
  private final Clock clock;
  private final Duration grace;
  private final BuilderTurn builder;
  private final FileSender sender;
  private final Map<String, String> tags = new HashMap<>();
  private final Map<EditionName, EditionManifest> manifests = new ConcurrentHashMap<>();
  private Catalogue.Content content;

  /** What the catalogue may name besides, as an answer was lost. */
  private final Set<EditionName> tried = new HashSet<>();

  /** The parts that manifests may name besides, as an answer was lost. */
  private final Map<EditionName, Set<PublishedFile.Part>> triedParts = new HashMap<>();

  /** When it was noticed that nothing names a part. */
  private final Map<String, Instant> unnamed = new HashMap<>();

  /**
   * Takes over from earlier runs of the same installation.
   *
   * @param installation identifies the installation
   * @param grace how long parts are kept after nothing names them any more
   * @throws StoreTakenException if the store belongs to another installation
   * @throws SupersededException if yet another run takes over at the same time
   * @throws IOException if the store cannot be reached, or has what a newer version has written
   */
  public Publisher(
      ObjectStore store, String installation, Bandwidth bandwidth, Duration grace, Clock clock)
      throws IOException {
    this(store, installation, bandwidth, FileSender.PART_BYTES, grace, clock);
  }

  Publisher(
      ObjectStore store,
      String installation,
      Bandwidth bandwidth,
      int partBytes,
      Duration grace,
      Clock clock)
      throws IOException {
    this.store = store;
    this.clock = clock;
    this.grace = grace;
    StoredObject found = store.get(Catalogue.OBJECT);
    Catalogue before = found == null ? null : Catalogue.read(found);
    if (before != null && !before.builder().installation().equals(installation)) {
      throw new StoreTakenException(store.place(), before.builder());
    }
    this.builder =
        new BuilderTurn(
            installation,
            UUID.randomUUID().toString().substring(0, 8),
            before == null ? 1 : before.builder().turn() + 1);
    this.content = before == null ? Catalogue.NOTHING : before.content();
    if (found != null) {
      tags.put(Catalogue.OBJECT, found.tag());
    }
    write(Catalogue.OBJECT, new Catalogue(Catalogue.FORMAT, builder, content));
    this.sender = new FileSender(store, builder.turn(), partBytes, bandwidth);
    for (String name : store.names(EditionManifest.EDITIONS)) {
      takeOver(name);
    }
    manifests.values().forEach(manifest -> sender.learn(manifest.files()));
  }

  private void takeOver(String name) throws IOException {
    for (int tried = 1; ; tried++) {
      StoredObject found = store.get(name);
      if (found == null) {
        return;
      }
      EditionManifest before =
          Json.read(name, found.content(), EditionManifest.class, EditionManifest.FORMAT);
      try {
        EditionManifest ours =
            new EditionManifest(
                EditionManifest.FORMAT, builder, before.state(), before.written(), before.files());
        tags.put(name, store.replace(name, Json.write(ours), found.tag()));
        manifests.put(before.state().edition(), ours);
        return;
      } catch (ReplacedException e) {
        // The run before this one still writes; what it has written last counts.
        if (tried == TRIES) {
          throw e;
        }
      }
    }
  }

  /** Who this run is. */
  public BuilderTurn builder() {
    return builder;
  }

  /** What the store says of an edition; null if nothing. */
  public @Nullable EditionManifest published(EditionName edition) {
    return manifests.get(edition);
  }

  /** What is offered. */
  public Catalogue.Content offered() {
    return content;
  }

  /**
   * Publishes a commit.
   *
   * @param state the edition at that commit
   * @param files its files, by their names; not removed meanwhile
   * @param setAside a JSON array of the keys of records whose documents may be outdated
   * @throws SupersededException if another run has taken over
   * @throws IOException if the store cannot be reached, or a file cannot be read
   */
  public void publish(EditionManifest.State state, Map<String, Path> files, byte[] setAside)
      throws IOException {
    List<PublishedFile> sent = new ArrayList<>(sender.send(state.edition().object(), files));
    sent.add(sender.send(EditionManifest.SET_ASIDE, setAside));
    write(state, sent);
  }

  /**
   * Says that the last commit is still all there is.
   *
   * @param state the same edition at a later moment
   * @throws SupersededException if another run has taken over
   * @throws IOException if the store cannot be reached
   */
  public void confirm(EditionManifest.State state) throws IOException {
    write(state, Objects.requireNonNull(manifests.get(state.edition())).files());
  }

  private void write(EditionManifest.State state, List<PublishedFile> files) throws IOException {
    EditionManifest manifest =
        new EditionManifest(
            EditionManifest.FORMAT, builder, state, clock.instant().toString(), List.copyOf(files));
    triedParts
        .computeIfAbsent(state.edition(), _ -> new HashSet<>())
        .addAll(parts(manifest).toList());
    write(state.edition().object(), manifest);
    manifests.put(state.edition(), manifest);
    triedParts.remove(state.edition());
  }

  private static Stream<PublishedFile.Part> parts(EditionManifest manifest) {
    return manifest.files().stream().flatMap(file -> file.parts().stream());
  }

  /**
   * Offers editions, unless these are offered already.
   *
   * @return whether something was written
   * @throws IllegalArgumentException if an edition has not been published
   * @throws SupersededException if another run has taken over
   * @throws IOException if the store cannot be reached
   */
  public boolean offer(Catalogue.Content wanted) throws IOException {
    for (EditionName edition : wanted.live()) {
      if (!manifests.containsKey(edition)) {
        throw new IllegalArgumentException(edition + " has not been published");
      }
    }
    if (wanted.equals(content) && tried.isEmpty()) {
      return false;
    }
    tried.addAll(wanted.live());
    write(Catalogue.OBJECT, new Catalogue(Catalogue.FORMAT, builder, wanted));
    content = wanted;
    tried.clear();
    return true;
  }

  private void write(String name, Object value) throws IOException {
    byte[] bytes = Json.write(value);
    for (int tried = 1; ; tried++) {
      try {
        String tag = tags.get(name);
        if (tag == null && !name.equals(Catalogue.OBJECT)) {
          // Nobody's object tells whose turn it is.
          requireTurn();
        }
        tags.put(name, store.replace(name, bytes, tag));
        return;
      } catch (ReplacedException e) {
        StoredObject found = store.get(name);
        if (found == null) {
          tags.remove(name);
        } else {
          BuilderTurn other = writer(name, found);
          if (other.turn() >= builder.turn() && !other.equals(builder)) {
            throw new SupersededException(store.place(), other);
          }
          tags.put(name, found.tag());
          if (Arrays.equals(found.content(), bytes)) {
            // It was written, and the answer was lost.
            return;
          }
        }
        if (tried == TRIES) {
          throw e;
        }
      }
    }
  }

  private static BuilderTurn writer(String name, StoredObject found) throws IOException {
    return name.equals(Catalogue.OBJECT)
        ? Catalogue.read(found).builder()
        : Json.read(name, found.content(), EditionManifest.class, EditionManifest.FORMAT).builder();
  }

  private void requireTurn() throws IOException {
    StoredObject now = store.get(Catalogue.OBJECT);
    if (now != null && !Catalogue.read(now).builder().equals(builder)) {
      throw new SupersededException(store.place(), Catalogue.read(now).builder());
    }
  }

  /**
   * Removes what is no longer needed: manifests of editions that are gone, and parts that nothing
   * has named for the time of grace.
   *
   * @param existing the editions that exist; what is offered is kept besides
   * @return how many objects were removed
   * @throws SupersededException if another run has taken over
   * @throws IOException if the store cannot be reached
   */
  public int sweep(Set<EditionName> existing) throws IOException {
    requireTurn();
    Set<EditionName> kept = new HashSet<>(existing);
    kept.addAll(content.live());
    kept.addAll(tried);
    manifests.keySet().retainAll(kept);
    // Also what an earlier run has still written while this one took over.
    List<String> gone = new ArrayList<>(store.names(EditionManifest.EDITIONS));
    manifests.keySet().forEach(edition -> gone.remove(edition.object()));
    gone.forEach(tags::remove);
    store.remove(gone);
    triedParts.keySet().retainAll(kept);
    Set<PublishedFile.Part> named =
        Stream.concat(
                manifests.values().stream().flatMap(Publisher::parts),
                triedParts.values().stream().flatMap(Set::stream))
            .collect(Collectors.toSet());
    Set<String> names = named.stream().map(PublishedFile.Part::object).collect(Collectors.toSet());
    List<String> there = store.names(PublishedFile.FILES);
    unnamed.keySet().retainAll(there);
    unnamed.keySet().removeAll(names);
    Instant moment = clock.instant();
    List<String> over = new ArrayList<>();
    for (String part : there) {
      if (!names.contains(part)
          && !unnamed.computeIfAbsent(part, _ -> moment).plus(grace).isAfter(moment)) {
        over.add(part);
      }
    }
    // They may be needed again, and are sent again then.
    sender.keepOnly(named);
    store.remove(over);
    over.forEach(unnamed::remove);
    return gone.size() + over.size();
  }

  @Override
  public void close() {
    sender.close();
  }
}
