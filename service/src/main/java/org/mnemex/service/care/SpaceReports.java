package org.mnemex.service.care;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import org.mnemex.engine.inspect.EditionSizes;
import org.mnemex.engine.inspect.FieldPart;
import org.mnemex.engine.inspect.Part;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.service.care.SpaceReport.FieldSpace;
import org.mnemex.service.care.SpaceReport.Saving;
import org.mnemex.service.search.Endpoints;
import org.mnemex.service.status.Indexes;
import org.mnemex.sync.edition.Edition;
import org.springframework.stereotype.Component;

/** Tells what indexes take on the disk, and what of it is dispensable. */
@Component
class SpaceReports {
  private static final int SAVINGS = 2;

  private final Indexes indexes;
  private final Endpoints endpoints;

  SpaceReports(Indexes indexes, Endpoints endpoints) {
    this.indexes = indexes;
    this.endpoints = endpoints;
  }

  /**
   * Reports on the live edition of an index.
   *
   * @throws org.mnemex.service.problem.ProblemException if there is no such index, or it has no
   *     live edition yet
   */
  SpaceReport of(String index) {
    Edition live = indexes.live(index);
    Snapshot snapshot = live.folder().snapshot();
    EditionSizes sizes = live.read(() -> EditionSizes.of(snapshot));
    List<Saving> savings = new ArrayList<>();
    if (sizes.deleted() > 0) {
      savings.add(
          new Saving(
              "%,d deleted documents are still in its files".formatted(sizes.deleted()),
              sizes.deletedBytes(),
              "compact the index: mnemex compact -i " + index));
    }
    addFormer(index, savings);
    addFields(index, snapshot, sizes, savings);
    return new SpaceReport(
        live.number(),
        snapshot.documents(),
        sizes.deleted(),
        sizes.bytes(),
        Part.byWord(sizes.parts()),
        sizes.fields().stream()
            .map(
                field ->
                    new FieldSpace(
                        field.name(), field.terms(), field.allBytes(), Part.byWord(field.bytes())))
            .toList(),
        savings.stream()
            .filter(saving -> saving.bytes() > 0)
            .sorted(Comparator.comparingLong(Saving::bytes).reversed())
            .limit(SAVINGS)
            .toList());
  }

  private void addFormer(String index, List<Saving> savings) {
    Edition former = indexes.former(index);
    if (former == null) {
      return;
    }
    Instant until = former.entry().until();
    savings.add(
        new Saving(
            "edition %d is kept for a way back%s"
                .formatted(former.number(), until == null ? "" : " until " + until),
            former.folder().snapshot().bytes(),
            "it goes by itself; 'grace' in the definition says after which time"));
  }

  private void addFields(
      String index, Snapshot snapshot, EditionSizes sizes, List<Saving> savings) {
    UsedFields used = UsedFields.of(index, endpoints.all(), snapshot.schema());
    for (FieldPart size : sizes.fields()) {
      Field field = snapshot.schema().field(size.name());
      if (field.isChild()) {
        continue;
      }
      if (!used.isNamed(field)) {
        savings.add(
            new Saving(
                "no endpoint uses field '%s'; callers can at most filter by it"
                    .formatted(field.name()),
                withChildren(size, sizes),
                "leave it out of the definition"));
      } else if (field.type() == FieldType.TEXT
          && field.uses().contains(Use.SEARCH)
          && !used.isSearched(field)) {
        savings.add(
            new Saving(
                "no endpoint searches field '%s'".formatted(field.name()),
                withChildren(size, sizes),
                "leave 'search' out of its uses"));
      }
    }
  }

  private static long withChildren(FieldPart group, EditionSizes sizes) {
    return sizes.fields().stream()
        .filter(
            field ->
                field.name().equals(group.name()) || field.name().startsWith(group.name() + "."))
        .mapToLong(FieldPart::allBytes)
        .sum();
  }
}
