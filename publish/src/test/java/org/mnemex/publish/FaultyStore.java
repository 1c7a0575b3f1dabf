package org.mnemex.publish;

import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.ConcurrentSkipListMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.ReplacedException;
import org.mnemex.publish.store.Sha256;
import org.mnemex.publish.store.StoredObject;

/** Objects in memory; calls fail at random, before or after they have had their effect. */
final class FaultyStore implements ObjectStore {
  final Map<String, byte[]> objects = new ConcurrentSkipListMap<>();
  private final Random random;

  /** Of a hundred calls, how many fail. */
  volatile int faults;

  /** The object whose next replacement happens, but seems to fail. */
  volatile @Nullable String losing;

  /** Told of each change of an object, before it is made. */
  interface Watcher {
    void changes(String name, byte @Nullable [] to);
  }

  volatile Watcher watcher = (name, to) -> {};

  FaultyStore(Random random) {
    this.random = random;
  }

  private boolean fails() throws IOException {
    int dice;
    synchronized (random) {
      dice = random.nextInt(100);
    }
    if (dice * 2 < faults) {
      throw new IOException("the store is away");
    }
    return dice < faults;
  }

  private static void lose(boolean lost) throws IOException {
    if (lost) {
      throw new IOException("the answer of the store is lost");
    }
  }

  @Override
  public String place() {
    return "in memory";
  }

  @Override
  public @Nullable StoredObject get(String name) throws IOException {
    lose(fails());
    byte[] content = objects.get(name);
    return content == null ? null : new StoredObject(content, Sha256.of(content));
  }

  @Override
  public @Nullable StoredObject getIfOther(String name, String tag) throws IOException {
    StoredObject found = get(name);
    return found == null || found.tag().equals(tag) ? null : found;
  }

  @Override
  public void put(String name, byte[] content) throws IOException {
    boolean lost = fails();
    objects.put(name, content);
    lose(lost);
  }

  @Override
  public synchronized String replace(String name, byte[] content, @Nullable String tag)
      throws IOException {
    boolean lost = fails();
    byte[] found = objects.get(name);
    if (found == null ? tag != null : !Sha256.of(found).equals(tag)) {
      throw new ReplacedException(place(), name);
    }
    watcher.changes(name, content);
    objects.put(name, content);
    lose(lost || name.equals(losing));
    return Sha256.of(content);
  }

  @Override
  public List<String> names(String beginning) throws IOException {
    lose(fails());
    return objects.keySet().stream().filter(name -> name.startsWith(beginning)).toList();
  }

  @Override
  public void remove(List<String> names) throws IOException {
    for (String name : names) {
      boolean lost = fails();
      watcher.changes(name, null);
      objects.remove(name);
      lose(lost);
    }
  }

  @Override
  public void close() {
    // Nothing is held.
  }
}
