package org.mnemex.publish;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.file.PublishedFile;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.StoredObject;

/**
 * A store whose readers believe only what a builder has signed. What can be replaced carries its
 * signature in a line of its own before the content. Parts of files need none: they must be what
 * their names say, and these names stand in what is signed.
 */
public final class SignedStore implements ObjectStore {
  private static final byte[] BEGINNING = "ed25519 ".getBytes(StandardCharsets.US_ASCII);

  private final ObjectStore store;
  private final Signatures signatures;
  private final String within;

  public SignedStore(ObjectStore store, Signatures signatures) {
    this(store, signatures, "");
  }

  /**
   * @param within what the names of objects begin with in the whole store, if this is a part of
   *     one; signed with them, so that no part can be taken for another
   */
  public SignedStore(ObjectStore store, Signatures signatures, String within) {
    this.store = store;
    this.signatures = signatures;
    this.within = within;
  }

  @Override
  public String place() {
    return store.place();
  }

  @Override
  public @Nullable StoredObject get(String name) throws IOException {
    return checked(name, store.get(name));
  }

  @Override
  public @Nullable StoredObject getIfOther(String name, String tag) throws IOException {
    return checked(name, store.getIfOther(name, tag));
  }

  private @Nullable StoredObject checked(String name, @Nullable StoredObject found)
      throws IOException {
    if (found == null || name.startsWith(PublishedFile.FILES)) {
      return found;
    }
    byte[] bytes = found.content();
    int end = isSigned(bytes) ? lineEnd(bytes) : -1;
    byte[] content = end < 0 ? bytes : Arrays.copyOfRange(bytes, end + 1, bytes.length);
    if (signatures.areNeeded()) {
      if (end < 0) {
        throw new NotSignedException(
            place(), name, "is not signed, by a builder without a key or by somebody else");
      }
      if (!signatures.isOf(within + name, content, signature(bytes, end))) {
        throw new NotSignedException(
            place(), name, "is not signed with the key that is known here");
      }
    }
    return new StoredObject(content, found.tag());
  }

  private static boolean isSigned(byte[] bytes) {
    return bytes.length > BEGINNING.length
        && Arrays.equals(bytes, 0, BEGINNING.length, BEGINNING, 0, BEGINNING.length);
  }

  private static int lineEnd(byte[] bytes) {
    for (int i = 0; i < bytes.length; i++) {
      if (bytes[i] == '\n') {
        return i;
      }
    }
    return -1;
  }

  private static byte[] signature(byte[] bytes, int end) {
    try {
      return Base64.getDecoder().decode(Arrays.copyOfRange(bytes, BEGINNING.length, end));
    } catch (IllegalArgumentException e) {
      return new byte[0];
    }
  }

  @Override
  public void put(String name, byte[] content) throws IOException {
    store.put(name, content);
  }

  @Override
  public String replace(String name, byte[] content, @Nullable String tag) throws IOException {
    byte[] signature = signatures.make(within + name, content);
    return store.replace(name, signature == null ? content : signed(signature, content), tag);
  }

  private static byte[] signed(byte[] signature, byte[] content) {
    byte[] line = Base64.getEncoder().encode(signature);
    int start = BEGINNING.length + line.length + 1;
    byte[] bytes = Arrays.copyOf(BEGINNING, start + content.length);
    System.arraycopy(line, 0, bytes, BEGINNING.length, line.length);
    bytes[start - 1] = '\n';
    System.arraycopy(content, 0, bytes, start, content.length);
    return bytes;
  }

  @Override
  public List<String> names(String beginning) throws IOException {
    return store.names(beginning);
  }

  @Override
  public void remove(List<String> names) throws IOException {
    store.remove(names);
  }

  @Override
  public void close() {
    store.close();
  }
}
