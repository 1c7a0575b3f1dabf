package org.mnemex.publish.store;

import java.io.IOException;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Objects by name. A name is a path with slashes, of lower-case letters, digits, {@code -}, {@code
 * _} and {@code .}; an object fits into memory.
 *
 * <p>May be used by several threads at once. A method that fails may have had its effect all the
 * same, as when an answer is lost on its way.
 */
public interface ObjectStore extends AutoCloseable {
  /** Where it is, for people. */
  String place();

  /**
   * The object of a name; null if there is none.
   *
   * @throws IOException if the store cannot be reached or refuses
   */
  @Nullable StoredObject get(String name) throws IOException;

  /**
   * The object of a name, unless it is the one that is known already.
   *
   * @param tag the {@link StoredObject#tag} that is known
   * @return null if there is none, or it is still the same
   * @throws IOException if the store cannot be reached or refuses
   */
  @Nullable StoredObject getIfOther(String name, String tag) throws IOException;

  /**
   * Writes an object whose name says what it contains. Writing it again changes nothing.
   *
   * @throws IOException if the store cannot be reached or refuses
   */
  void put(String name, byte[] content) throws IOException;

  /**
   * Writes an object if it still is the one that is known; of several who try at once, one wins.
   *
   * @param tag the {@link StoredObject#tag} of the object to be replaced; null if there must be
   *     none
   * @return the tag of the new object
   * @throws ReplacedException if it is another one
   * @throws IOException if the store cannot be reached or refuses
   */
  String replace(String name, byte[] content, @Nullable String tag) throws IOException;

  /**
   * The names that begin so, in no particular order.
   *
   * @throws IOException if the store cannot be reached or refuses
   */
  List<String> names(String beginning) throws IOException;

  /**
   * Removes objects, as far as they exist.
   *
   * @throws IOException if the store cannot be reached or refuses
   */
  void remove(List<String> names) throws IOException;

  @Override
  void close();
}
