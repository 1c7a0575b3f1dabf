package org.mnemex.sync.push;

import java.util.Collection;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Stores the records of push sources. */
public interface PushStore {
  /**
   * The latest version of a pushed record.
   *
   * @param key the text of its key
   * @param content a JSON object; null if it was deleted
   * @param number grows with every push to its source
   */
  record Pushed(String key, @Nullable String content, long number) {}

  /** A random identifier of this store of a source. */
  String history(String source);

  /** The number of the last push; 0 before the first. */
  long last(String source);

  /**
   * Writes records, all or none; they are on disk when this returns.
   *
   * @param contents by key, JSON objects; null deletes
   * @return the number of the last one
   */
  long write(String source, Map<String, @Nullable String> contents);

  /** The existing records among some keys. */
  List<Pushed> read(String source, Collection<String> keys);

  /**
   * Records in the order of their keys.
   *
   * @param after null for the first ones
   */
  List<Pushed> readAfter(String source, @Nullable String after, int limit);

  /**
   * Records in the order of their keys, up to a key that is included.
   *
   * @param after null for the beginning
   * @param upTo null for the end
   */
  List<Pushed> readBetween(String source, @Nullable String after, @Nullable String upTo);

  /**
   * The key of the n-th record after a key, null if there are fewer.
   *
   * @param after null for the beginning
   */
  @Nullable String skip(String source, @Nullable String after, int records);

  /** How many records there are. */
  long count(String source);

  /** Pushes after a number, deletions included, in order. */
  List<Pushed> changesAfter(String source, long number, int limit);

  /**
   * Notes the position up to which a reader no longer needs deletions, and removes those that no
   * reader needs.
   */
  void done(String source, String reader, long number);

  /** Forgets a reader. */
  void leave(String source, String reader);

  /** Deletions up to this number have been removed. */
  long trimmed(String source);

  /** Removes everything of a source. */
  void removeAll(String source);
}
