package org.mnemex.engine.search;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.function.Function;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;

/** The ranking signals of a request, for one segment. */
final class Signals {
  private static final double MICROS_PER_DAY = 86_400e6;

  private final List<One> all = new ArrayList<>();
  private final List<Lifted> lifts = new ArrayList<>();

  /** The value of a signal by document. */
  private interface Value {
    double of(int doc);
  }

  private record One(Signal.OfField signal, Value value, double greatest) {}

  private record Lifted(Signal.Lift lift, DocBits docs) {}

  /**
   * @param filter the documents of the segment that meet a condition
   */
  Signals(List<Signal> signals, SegmentReader segment, Function<Query, DocBits> filter) {
    for (Signal any : signals) {
      if (any instanceof Signal.Lift lift) {
        lifts.add(new Lifted(lift, filter.apply(lift.condition())));
      }
      if (!(any instanceof Signal.OfField signal)) {
        continue;
      }
      Field field = check(signal, segment.schema());
      if (signal instanceof Signal.Distance distance) {
        all.add(new One(signal, distance(distance, segment.places(field)), 1));
      } else {
        Column column = segment.column(field);
        all.add(new One(signal, value(signal, field, column), greatest(signal, field, column)));
      }
    }
  }

  /**
   * Checks a signal.
   *
   * @throws QueryRefusedException if it is invalid with this schema
   */
  static void check(Signal any, Schema schema) {
    switch (any) {
      case Signal.OfField signal -> check(signal, schema);
      case Signal.Lift lift -> {
        if (!(lift.factor() > 0) || Double.isInfinite(lift.factor())) {
          throw new QueryRefusedException(
              "what lifts or lowers results multiplies by a number above 0, not " + lift.factor());
        }
      }
    }
  }

  /**
   * The field of a signal.
   *
   * @throws QueryRefusedException if the field cannot be a signal of that kind
   */
  private static Field check(Signal.OfField signal, Schema schema) {
    Field field = schema.field(signal.field());
    boolean fits =
        switch (signal) {
          case Signal.Distance d -> field.type() == FieldType.PLACE;
          case Signal.Age a -> field.type().isMoment();
          case Signal.Logarithm l -> field.type().isNumeric();
          case Signal.Saturating s -> field.type().isNumeric();
        };
    if (!fits || !field.hasColumn() || field.isChild()) {
      throw new QueryRefusedException(
          "field '%s' (%s) cannot rank by %s; give a field of the right type the use 'rank'"
              .formatted(
                  field.name(),
                  field.type().word(),
                  signal.getClass().getSimpleName().toLowerCase(Locale.ROOT)));
    }
    double half =
        switch (signal) {
          case Signal.Distance distance -> distance.halfMetres();
          case Signal.Age age -> age.halfLifeDays();
          case Signal.Saturating saturating -> saturating.half();
          case Signal.Logarithm logarithm -> 1;
        };
    if (!(half > 0) || Double.isInfinite(half)) {
      throw new QueryRefusedException(
          "the half of signal '" + signal.field() + "' must be above 0, not " + half);
    }
    if (!(signal.weight() >= 0) || Double.isInfinite(signal.weight())) {
      throw new QueryRefusedException(
          "the weight of signal '" + signal.field() + "' must be 0 or more");
    }
    return field;
  }

  private static Value value(Signal.OfField signal, Field field, Column column) {
    Shapes shapes = new Shapes(signal, field, column.rows());
    return doc -> column.has(doc) ? shapes.of(column.value(column.end(doc) - 1)) : 0;
  }

  /** Numbers repeat, and a logarithm takes longer than finding the one from before. */
  private static final class Shapes {
    /** One slot a number: a new one takes the place of the old one. */
    private static final int MAX_SLOTS = 1 << 10;

    private final Signal.OfField signal;
    private final Field field;
    private final long[] numbers;
    private final double[] shapes;

    /**
     * @param rows how many numbers there may be: most segments are small
     */
    Shapes(Signal.OfField signal, Field field, int rows) {
      this.signal = signal;
      this.field = field;
      int slots = Integer.highestOneBit(Math.clamp(rows, 1, MAX_SLOTS));
      this.numbers = new long[slots];
      this.shapes = new double[slots];
      Arrays.fill(shapes, Double.NaN);
    }

    double of(long number) {
      int slot = (int) number & shapes.length - 1;
      double known = shapes[slot];
      if (numbers[slot] != number || Double.isNaN(known)) {
        known = shaped(signal, field, number);
        numbers[slot] = number;
        shapes[slot] = known;
      }
      return known;
    }
  }

  private static Value distance(Signal.Distance signal, SegmentReader.PlaceColumn places) {
    return doc ->
        places.present().has(doc)
            ? signal
                .curve()
                .of(
                    signal
                            .from()
                            .metresTo(
                                Place.degrees(places.latitudes().get(doc)),
                                Place.degrees(places.longitudes().get(doc)))
                        / signal.halfMetres())
            : 0;
  }

  private static double shaped(Signal.OfField signal, Field field, long number) {
    double x = Math.max(0, number / Math.pow(10, field.scale()));
    return switch (signal) {
      case Signal.Logarithm l -> Math.log1p(x);
      case Signal.Saturating s -> x / (x + s.half());
      case Signal.Age age -> age.curve().of(days(age.now(), field, number) / age.halfLifeDays());
      case Signal.Distance d -> throw new IllegalArgumentException("a distance has no number");
    };
  }

  private static double days(Instant now, Field field, long number) {
    double micros = field.micros(number);
    double nowMicros = now.getEpochSecond() * 1e6 + now.getNano() / 1e3;
    return Math.max(0, nowMicros - micros) / MICROS_PER_DAY;
  }

  private static double greatest(Signal.OfField signal, Field field, Column column) {
    if (!(signal instanceof Signal.Logarithm)) {
      return 1;
    }
    long most = 0;
    for (int block = 0; block < column.values().blocks(); block++) {
      most = Math.max(most, column.values().greatest(block));
    }
    return shaped(signal, field, most);
  }

  boolean isEmpty() {
    return all.isEmpty() && lifts.isEmpty();
  }

  /** What relevance is multiplied by. */
  double factor(int doc) {
    double factor = 1;
    for (One one : all) {
      factor *= 1 + one.signal.weight() * one.value.of(doc);
    }
    for (Lifted lifted : lifts) {
      factor *= lifted.docs.get(doc) ? lifted.lift.factor() : 1;
    }
    return factor;
  }

  /** The most that relevance can be multiplied by. */
  double bound() {
    double factor = 1;
    for (One one : all) {
      factor *= 1 + one.signal.weight() * one.greatest;
    }
    for (Lifted lifted : lifts) {
      factor *= Math.max(1, lifted.lift.factor());
    }
    return factor * Matcher.SLACK;
  }

  /** The factors of a document, one by one. */
  List<Explanation> explain(int doc) {
    List<Explanation> parts = new ArrayList<>();
    for (One one : all) {
      double value = one.value.of(doc);
      parts.add(
          new Explanation(
              "signal '%s': 1 + %s × %s".formatted(one.signal.field(), one.signal.weight(), value),
              1 + one.signal.weight() * value,
              true,
              null,
              List.of()));
    }
    for (Lifted lifted : lifts) {
      if (lifted.docs.get(doc)) {
        parts.add(
            Explanation.of(
                (lifted.lift.factor() < 1 ? "lowered: " : "lifted: ")
                    + Explainer.describe(lifted.lift.condition()),
                lifted.lift.factor()));
      }
    }
    return parts;
  }
}
