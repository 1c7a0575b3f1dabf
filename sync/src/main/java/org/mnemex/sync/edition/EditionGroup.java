package org.mnemex.sync.edition;

import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The editions that an index has at one moment.
 *
 * @param live the one that answers
 * @param next the one that is to follow it
 * @param former the one that answered before and can be restored
 */
record EditionGroup(@Nullable Edition live, @Nullable Edition next, @Nullable Edition former) {
  static final EditionGroup NONE = new EditionGroup(null, null, null);

  /** The live edition, then the next, then the former. */
  List<Edition> all() {
    return Stream.of(live, next, former).flatMap(Stream::ofNullable).toList();
  }

  /** The edition of that number, or null. */
  @Nullable Edition edition(int number) {
    return all().stream().filter(one -> one.number() == number).findFirst().orElse(null);
  }

  EditionGroup withNext(@Nullable Edition other) {
    return new EditionGroup(live, other, former);
  }

  EditionGroup withoutFormer() {
    return new EditionGroup(live, next, null);
  }
}
