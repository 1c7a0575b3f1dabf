package org.mnemex.service.install;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.KeyWalk;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.install.PlanView.Estimate;
import org.mnemex.service.install.PlanView.PlannedChange;
import org.mnemex.service.install.PlanView.PlannedDifference;
import org.mnemex.service.install.PlanView.Warning;
import org.mnemex.service.store.EditionMapper;
import org.mnemex.service.store.EditionMapper.EditionRow;
import org.mnemex.sync.change.Cost;
import org.mnemex.sync.change.DefinitionDifferences;
import org.mnemex.sync.definition.ExpressionCheck;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.mapping.ContentJson;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.RecordKey;
import org.springframework.stereotype.Component;

/** Describes what a set of changes does, what it costs, and what looks like a mistake. */
@Component
public class PlanReview {
  private static final int NAME_BYTES = 6;
  private static final int RATES_LOOKED_AT = 50;
  private static final long MANY_VALUES = 100_000;
  private static final int SAMPLE = 500;
  private static final int EXAMPLES = 3;

  private final EditionMapper editions;

  public PlanReview(EditionMapper editions) {
    this.editions = editions;
  }

  /** What applying the changes that were read from some files would do. */
  PlanView of(CheckedChanges changes, List<DefinitionFile> files) {
    List<PlannedChange> planned = new ArrayList<>();
    for (Applied applied : changes.applied()) {
      if (applied.change() != Applied.Change.SAME) {
        planned.add(planned(applied, changes.steps().get(applied.name())));
      }
    }
    Cost cost =
        changes.steps().values().stream()
            .map(IndexStep::cost)
            .filter(Objects::nonNull)
            .reduce(Cost::or)
            .orElse(null);
    if (cost == null
        && planned.stream().anyMatch(change -> change.kind() != DefinitionKind.SOURCE)) {
      // Endpoints and settings of an index that take effect with the next query.
      cost = Cost.AT_ONCE;
    }
    return new PlanView(
        name(changes, files), cost == null ? null : cost.words(), planned, warnings(changes));
  }

  private PlannedChange planned(Applied applied, @Nullable IndexStep step) {
    if (step == null || applied.kind() != DefinitionKind.INDEX) {
      return new PlannedChange(
          applied.kind(),
          applied.name(),
          applied.change(),
          applied.version(),
          null,
          List.of(),
          null);
    }
    Cost cost = step.cost();
    return new PlannedChange(
        applied.kind(),
        applied.name(),
        applied.change(),
        applied.version(),
        cost == null ? null : cost.words(),
        step.differences().stream().map(PlannedDifference::of).toList(),
        step.action() == IndexStep.Action.BUILD ? estimate(step) : null);
  }

  private @Nullable Estimate estimate(IndexStep step) {
    Edition base = step.base();
    boolean fromStored = step.cost() == Cost.FROM_STORED;
    if (base == null) {
      return null;
    }
    Snapshot snapshot = base.folder().snapshot();
    long records = snapshot.documents();
    EditionRow measured = null;
    for (EditionRow row : editions.lastFilled(RATES_LOOKED_AT)) {
      boolean sameIndex = row.indexName().equals(step.index().index().keptAs());
      if (row.fromStored() == fromStored && (measured == null || sameIndex)) {
        measured = row;
        if (sameIndex) {
          break;
        }
      }
    }
    Long seconds = null;
    String basis = "no edition was filled %s yet".formatted(from(fromStored));
    if (measured != null && measured.filledRecords() != null && measured.filledMillis() != null) {
      long rate = Math.max(1, measured.filledRecords() * 1000 / measured.filledMillis());
      seconds = Math.ceilDiv(records, rate);
      basis =
          "edition %d of index '%s' was filled %s with %,d records/s"
              .formatted(measured.number(), measured.indexName(), from(fromStored), rate);
    }
    return new Estimate(records, seconds, snapshot.bytes(), fromStored ? 0 : records, basis);
  }

  private static String from(boolean stored) {
    return stored ? "from stored records" : "from the database";
  }

  /** The identifier of a plan: a hash of these files and of what runs now. */
  private static String name(CheckedChanges changes, List<DefinitionFile> files) {
    StringBuilder all = new StringBuilder();
    for (DefinitionFile file : files) {
      all.append(file.text()).append('\0');
    }
    changes.applied().forEach(one -> all.append(one).append('\0'));
    for (IndexStep step : changes.steps().values()) {
      all.append(step.action()).append(step.differences()).append('\0');
      for (Edition edition : step.index().editions().all()) {
        all.append(edition.number()).append(' ').append(edition.version()).append('\0');
      }
    }
    try {
      byte[] digest =
          MessageDigest.getInstance("SHA-256")
              .digest(all.toString().getBytes(StandardCharsets.UTF_8));
      return HexFormat.of().formatHex(Arrays.copyOf(digest, NAME_BYTES));
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }

  private static List<Warning> warnings(CheckedChanges changes) {
    List<Warning> warnings = new ArrayList<>();
    for (IndexStep step : changes.steps().values()) {
      String about = "index " + step.index().index().name();
      analysers(step.index().index(), about, warnings);
      ExpressionCheck.warnings(step.index().index())
          .forEach(warning -> warnings.add(new Warning(about, warning)));
      neverThere(step, about, warnings);
      if (step.base() != null) {
        manyValues(step, about, warnings);
        forbidden(step, about, warnings);
        if (step.action() == IndexStep.Action.BUILD) {
          unfitting(step, about, warnings);
        }
      }
    }
    for (Applied applied : changes.applied()) {
      boolean ofFields =
          applied.kind() == DefinitionKind.ANALYSER || applied.kind() == DefinitionKind.SYNONYMS;
      if (ofFields && changes.after().usersOf(applied.id()).isEmpty()) {
        warnings.add(
            new Warning(applied.kind() + " " + applied.name(), "no field of any index uses it"));
      }
    }
    return warnings;
  }

  /** A mistyped former name would rebuild the index instead of renaming it. */
  private static void neverThere(IndexStep step, String about, List<Warning> warnings) {
    if (step.base() == null
        && step.index().definition().content() instanceof Definition.OfIndex of
        && of.was() != null) {
      warnings.add(
          new Warning(
              about,
              "there is no index '%s' that could be renamed; this one is built anew"
                  .formatted(of.was())));
    }
  }

  private static void analysers(IndexDefinition index, String about, List<Warning> warnings) {
    for (FieldDefinition field : index.fields()) {
      if (field.field().analyser() != null) {
        for (String warning : field.field().analyser().warnings()) {
          warnings.add(
              new Warning(
                  about,
                  "field '%s', analyser '%s': %s"
                      .formatted(field.field().name(), field.field().analyser().name(), warning)));
        }
      }
    }
  }

  /** Counting hundreds of thousands of values is slow, and nobody reads that many. */
  private static void manyValues(IndexStep step, String about, List<Warning> warnings) {
    Edition base = Objects.requireNonNull(step.base());
    for (FieldDefinition field : step.index().index().fields()) {
      String name = field.field().name();
      boolean facets =
          field.field().uses().contains(Use.FACET)
              && (field.field().type() == FieldType.EXACT
                  || field.field().type() == FieldType.PATH);
      Snapshot snapshot = base.folder().snapshot();
      if (!facets || !snapshot.schema().has(name)) {
        continue;
      }
      Field former = snapshot.schema().field(name);
      if (former.type() != field.field().type() || !former.hasColumn()) {
        continue;
      }
      long values = 0;
      for (SegmentView segment : snapshot.segments()) {
        values = Math.max(values, segment.reader().values(former).size());
      }
      if (values > MANY_VALUES) {
        warnings.add(
            new Warning(
                about,
                "field '%s' has more than %,d values; counting them for a facet makes searches slow, and nobody reads that many"
                    .formatted(name, values)));
      }
    }
  }

  private static void forbidden(IndexStep step, String about, List<Warning> warnings) {
    Edition base = Objects.requireNonNull(step.base());
    Set<String> columns =
        DefinitionDifferences.newlyForbidden(base.definition(), step.index().index());
    if (!columns.isEmpty()) {
      warnings.add(
          new Warning(
              about,
              "edition %d holds %s until the new edition is live; it is removed then, without grace, and cannot be restored"
                  .formatted(base.number(), String.join(", ", columns))));
    }
  }

  /** Maps some stored records under the new definition, if they contain what it needs. */
  private static void unfitting(IndexStep step, String about, List<Warning> warnings) {
    Edition base = Objects.requireNonNull(step.base());
    IndexDefinition definition = step.index().index();
    DocumentMapper mapper = new DocumentMapper(definition);
    int keyColumns = base.definition().shape().key().size();
    KeyWalk walk = new KeyWalk(base.folder().snapshot(), null);
    int looked = 0;
    Map<String, String> examples = new LinkedHashMap<>();
    int bad = 0;
    while (looked < SAMPLE && walk.next()) {
      looked++;
      try {
        mapper.map(
            new AssembledRecord(
                RecordKey.parse(walk.key(), keyColumns), ContentJson.read(walk.record())));
      } catch (UnmappableRecordException e) {
        bad++;
        if (examples.size() < EXAMPLES) {
          examples.put(walk.key(), String.valueOf(e.getMessage()));
        }
      }
    }
    if (bad > 0) {
      List<String> told = new ArrayList<>();
      examples.forEach((key, reason) -> told.add("%s: %s".formatted(key, reason)));
      warnings.add(
          new Warning(
              about,
              "%,d of %,d sampled records would go to quarantine; %s"
                  .formatted(bad, looked, String.join("; ", told))));
    }
  }
}
