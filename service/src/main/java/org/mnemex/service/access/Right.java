package org.mnemex.service.access;

import java.util.Arrays;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** What a caller may do. Each key has one right. */
public enum Right {
  /** Everything. */
  ADMIN("everything, keys and the activity log included"),
  /** See everything that the service shows, and search. */
  READ("status, definitions, records and searches; changes nothing"),
  /** Push records to named indexes. */
  WRITE("push records to named indexes"),
  /** Search named endpoints. */
  SEARCH("search named endpoints"),
  /** Report as a search node. */
  NODE("report as a search node of this builder, and learn what is new in its store");

  private final String meaning;

  Right(String meaning) {
    this.meaning = meaning;
  }

  /** What it allows, in a few words. */
  public String meaning() {
    return meaning;
  }

  /** Its name in requests and answers. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** The right of a name, or null. */
  public static @Nullable Right of(String word) {
    return Arrays.stream(values()).filter(r -> r.word().equals(word)).findFirst().orElse(null);
  }
}
