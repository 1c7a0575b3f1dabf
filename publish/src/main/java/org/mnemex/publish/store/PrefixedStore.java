package org.mnemex.publish.store;

import java.io.IOException;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** The objects of another store whose names begin so, without that beginning. */
public final class PrefixedStore implements ObjectStore {
  private final ObjectStore store;
  private final String prefix;

  /**
   * @param store the whole store, which is not closed with this one
   * @param prefix a path that ends with a slash
   */
  public PrefixedStore(ObjectStore store, String prefix) {
    this.store = store;
    this.prefix = prefix;
  }

  @Override
  public String place() {
    return prefix.substring(0, prefix.length() - 1) + " in " + store.place();
  }

  @Override
  public @Nullable StoredObject get(String name) throws IOException {
    return store.get(prefix + name);
  }

  @Override
  public @Nullable StoredObject getIfOther(String name, String tag) throws IOException {
    return store.getIfOther(prefix + name, tag);
  }

  @Override
  public void put(String name, byte[] content) throws IOException {
    store.put(prefix + name, content);
  }

  @Override
  public String replace(String name, byte[] content, @Nullable String tag) throws IOException {
    return store.replace(prefix + name, content, tag);
  }

  @Override
  public List<String> names(String beginning) throws IOException {
    return store.names(prefix + beginning).stream()
        .map(name -> name.substring(prefix.length()))
        .toList();
  }

  @Override
  public void remove(List<String> names) throws IOException {
    store.remove(names.stream().map(name -> prefix + name).toList());
  }

  @Override
  public void close() {
    // The whole store may have other users.
  }
}
