package org.mnemex.sync.edition;

import java.util.List;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The editions of an index at one moment.
 *
 * @param live the edition that answers
 * @param next the edition that will replace it
 * @param former the previous edition, which can be restored
 */
record EditionGroup(@Nullable Edition live, @Nullable Edition next, @Nullable Edition former) {
  static final EditionGroup NONE = new EditionGroup(null, null, null);

  /**
   * The group of recorded editions.
   *
   * @param surplus receives pending editions that a newer one superseded
   */
  static EditionGroup of(List<Edition> opened, Consumer<Edition> surplus) {
    EditionGroup group = NONE;
    for (Edition edition : opened) {
      group =
          switch (edition.entry().state()) {
            case LIVE -> new EditionGroup(edition, group.next, group.former);
            case FORMER -> new EditionGroup(group.live, group.next, edition);
            default -> {
              if (group.next != null) {
                surplus.accept(group.next);
              }
              yield group.withNext(edition);
            }
          };
    }
    return group;
  }

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
