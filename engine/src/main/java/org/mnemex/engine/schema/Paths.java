package org.mnemex.engine.schema;

import java.util.ArrayList;
import java.util.List;

/** Paths such as {@code Glasshouses/Fern house/Bench 3}. */
public final class Paths {
  private Paths() {}

  /**
   * The path with all that it lies in, the widest first: {@code a/b/c} gives {@code a}, {@code
   * a/b}, {@code a/b/c}. Empty steps do not count.
   */
  public static List<String> withAncestors(String path) {
    List<String> all = new ArrayList<>();
    StringBuilder so = new StringBuilder(path.length());
    for (String step : path.split("/", -1)) {
      if (!step.isEmpty()) {
        so.append(so.isEmpty() ? "" : "/").append(step);
        all.add(so.toString());
      }
    }
    return all;
  }

  /** How many steps a path has. */
  public static int depth(String path) {
    int depth = path.isEmpty() ? 0 : 1;
    for (int i = 0; i < path.length(); i++) {
      depth += path.charAt(i) == '/' ? 1 : 0;
    }
    return depth;
  }
}
