package org.mnemex.engine.search;

import java.util.Arrays;
import java.util.List;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Postings;

/**
 * Documents in which words stand in a certain way to one another. What stands for a word may be
 * several terms one after the other, and each may have alternatives.
 */
final class PositionalOccurrences extends Occurrences {
  private final Way[][] units;
  private final PositionMatch match;
  private final boolean shared;
  private final Budget budget;
  private final int[][] positions;
  private final int[] counts;
  private int doc = -1;
  private int freq;

  /**
   * @param units alternatives for each word
   * @param shared whether two words may have positions in common
   */
  PositionalOccurrences(List<List<Way>> units, PositionMatch match, boolean shared, Budget budget) {
    this.budget = budget;
    this.units = units.stream().map(unit -> unit.toArray(Way[]::new)).toArray(Way[][]::new);
    this.match = match;
    this.shared = shared;
    this.positions = new int[units.size()][8];
    this.counts = new int[units.size()];
  }

  /** Terms in places one after the other. */
  static final class Way {
    private final Postings[][] slots;
    private final int[] offsets;
    private final int[][] positions;
    private final int[] counts;

    /**
     * @param slots postings with positions, one or more alternatives a slot
     * @param offsets of the slots from the first
     */
    Way(List<List<Postings>> slots, int[] offsets) {
      this.slots =
          slots.stream().map(slot -> slot.toArray(Postings[]::new)).toArray(Postings[][]::new);
      this.offsets = offsets;
      this.positions = new int[slots.size()][8];
      this.counts = new int[slots.size()];
    }

    /** {@code target} if every slot stands in it, else a later document to try. */
    private int align(int target) {
      for (Postings[] slot : slots) {
        int least = END;
        for (Postings alternative : slot) {
          least = Math.min(least, alternative.advance(target));
        }
        if (least != target) {
          return least;
        }
      }
      return target;
    }

    private boolean isAt(int doc) {
      for (Postings[] slot : slots) {
        boolean has = false;
        for (Postings alternative : slot) {
          has |= alternative.doc() == doc;
        }
        if (!has) {
          return false;
        }
      }
      return true;
    }

    /** Reads where each slot stands, and returns in how many places all do. */
    private int read(int doc) {
      for (int slot = 0; slot < slots.length; slot++) {
        int used = 0;
        for (Postings alternative : slots[slot]) {
          if (alternative.doc() == doc) {
            int[] read = alternative.positions();
            positions[slot] = room(positions[slot], used + read.length);
            System.arraycopy(read, 0, positions[slot], used, read.length);
            used += read.length;
          }
        }
        counts[slot] = slots[slot].length > 1 ? distinct(positions[slot], used) : used;
      }
      if (slots.length > 1) {
        int kept = 0;
        for (int i = 0; i < counts[0]; i++) {
          if (stands(positions[0][i])) {
            positions[0][kept++] = positions[0][i];
          }
        }
        counts[0] = kept;
      }
      return counts[0];
    }

    private boolean stands(int at) {
      for (int slot = 1; slot < slots.length; slot++) {
        int wanted = at + offsets[slot] - offsets[0];
        if (Arrays.binarySearch(positions[slot], 0, counts[slot], wanted) < 0) {
          return false;
        }
      }
      return true;
    }

    private long cost() {
      long least = Long.MAX_VALUE;
      for (Postings[] slot : slots) {
        least = Math.min(least, Arrays.stream(slot).mapToLong(Postings::count).sum());
      }
      return least;
    }

    /** It stands in no more places than its rarest slot. */
    private double bound(double[] factors) {
      double least = Double.MAX_VALUE;
      for (Postings[] slot : slots) {
        double all = 0;
        for (Postings alternative : slot) {
          all += alternative.bound(factors);
        }
        least = Math.min(least, all);
      }
      return least;
    }
  }

  @Override
  int doc() {
    return doc;
  }

  @Override
  double freq() {
    return freq;
  }

  @Override
  int next() {
    return advance(doc + 1);
  }

  @Override
  int advance(int target) {
    if (doc >= target) {
      return doc;
    }
    int wanted = target;
    while (wanted != END && budget.step()) {
      int agreed = align(wanted);
      if (agreed == wanted) {
        freq = read(wanted) ? match.count(positions, counts, shared) : 0;
        if (freq > 0) {
          return doc = wanted;
        }
        agreed = wanted + 1;
      }
      wanted = agreed;
    }
    return doc = END;
  }

  /** {@code target} if every word may stand in it, else a later document to try. */
  private int align(int target) {
    for (Way[] unit : units) {
      int least = END;
      for (Way way : unit) {
        least = Math.min(least, way.align(target));
      }
      if (least != target) {
        return least;
      }
    }
    return target;
  }

  /** Reads where every word begins; false if one stands nowhere. */
  private boolean read(int at) {
    for (int unit = 0; unit < units.length; unit++) {
      int used = 0;
      for (Way way : units[unit]) {
        if (way.isAt(at)) {
          int found = way.read(at);
          positions[unit] = room(positions[unit], used + found);
          System.arraycopy(way.positions[0], 0, positions[unit], used, found);
          used += found;
        }
      }
      counts[unit] = units[unit].length > 1 ? distinct(positions[unit], used) : used;
      if (used == 0) {
        return false;
      }
    }
    return true;
  }

  private static int[] room(int[] array, int wanted) {
    return wanted <= array.length ? array : Arrays.copyOf(array, 2 * wanted);
  }

  private static int distinct(int[] numbers, int count) {
    Arrays.sort(numbers, 0, count);
    int kept = 0;
    for (int i = 0; i < count; i++) {
      if (i == 0 || numbers[i] != numbers[i - 1]) {
        numbers[kept++] = numbers[i];
      }
    }
    return kept;
  }

  @Override
  long cost() {
    long least = Long.MAX_VALUE;
    for (Way[] unit : units) {
      least = Math.min(least, Arrays.stream(unit).mapToLong(Way::cost).sum());
    }
    return least;
  }

  /**
   * There are no more matches than positions at which one can begin: those of the first word if the
   * order is fixed, those of the rarest word if all distances are, else those of any word.
   */
  @Override
  double bound(double[] factors) {
    double least = Double.MAX_VALUE;
    double sum = 0;
    for (Way[] unit : units) {
      double all = 0;
      for (Way way : unit) {
        all += way.bound(factors);
      }
      if (match.ordered()) {
        return all;
      }
      least = Math.min(least, all);
      sum += all;
    }
    return match.distance() == 0 ? least : sum;
  }
}
