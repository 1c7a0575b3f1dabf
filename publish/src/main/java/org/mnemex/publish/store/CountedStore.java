package org.mnemex.publish.store;

import java.io.IOException;
import java.util.List;
import java.util.concurrent.atomic.LongAdder;
import org.jspecify.annotations.Nullable;

/** A store whose use is counted, as that is what people pay for. */
public final class CountedStore implements ObjectStore {
  /** A page of a listing is a request of its own. */
  private static final int NAMES_A_REQUEST = 1000;

  private final ObjectStore store;
  private final LongAdder requests = new LongAdder();
  private final LongAdder readBytes = new LongAdder();
  private final LongAdder writtenBytes = new LongAdder();

  public CountedStore(ObjectStore store) {
    this.store = store;
  }

  /**
   * What was used since the start. What the client of a store repeats by itself is not counted.
   *
   * @param requests how many calls were made
   * @param readBytes how many bytes of objects were read
   * @param writtenBytes how many bytes of objects were written
   */
  public record Traffic(long requests, long readBytes, long writtenBytes) {}

  /** What was used since the start. */
  public Traffic traffic() {
    return new Traffic(requests.sum(), readBytes.sum(), writtenBytes.sum());
  }

  @Override
  public String place() {
    return store.place();
  }

  @Override
  public @Nullable StoredObject get(String name) throws IOException {
    requests.increment();
    return counted(store.get(name));
  }

  @Override
  public @Nullable StoredObject getIfOther(String name, String tag) throws IOException {
    requests.increment();
    return counted(store.getIfOther(name, tag));
  }

  private @Nullable StoredObject counted(@Nullable StoredObject object) {
    if (object != null) {
      readBytes.add(object.content().length);
    }
    return object;
  }

  @Override
  public void put(String name, byte[] content) throws IOException {
    requests.increment();
    store.put(name, content);
    writtenBytes.add(content.length);
  }

  @Override
  public String replace(String name, byte[] content, @Nullable String tag) throws IOException {
    requests.increment();
    String written = store.replace(name, content, tag);
    writtenBytes.add(content.length);
    return written;
  }

  @Override
  public List<String> names(String beginning) throws IOException {
    List<String> names = store.names(beginning);
    requests.add(names.size() / NAMES_A_REQUEST + 1L);
    return names;
  }

  @Override
  public void remove(List<String> names) throws IOException {
    requests.add(names.size());
    store.remove(names);
  }

  @Override
  public void close() {
    store.close();
  }
}
