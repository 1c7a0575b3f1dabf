package org.mnemex.sync;

import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;

/** The smallest index: table {@code plant} with its key {@code id} and one field, {@code name}. */
public final class Plants {
  public static final IndexDefinition DEFINITION = called("plants");

  /** With a table {@code bed}, whose title is the second field. */
  public static final IndexDefinition IN_BEDS =
      new IndexDefinition(
          "plants",
          "garden",
          new RecordShape(
              "plant",
              List.of("id"),
              null,
              List.of(Shapes.lookup("bed", "bed", Map.of("id", ColumnRef.of("bed_id")))),
              Set.of()),
          List.of(Shapes.field("name", "name"), Shapes.field("bed", "bed.title")),
          "");

  private Plants() {}

  /** The same under another name. */
  public static IndexDefinition called(String index) {
    return new IndexDefinition(
        index,
        "garden",
        new RecordShape("plant", List.of("id"), null, List.of(), Set.of()),
        List.of(
            new FieldDefinition(
                Field.of("name", FieldType.EXACT, null, Use.FILTER, Use.SHOW),
                ColumnRef.of("name"),
                null,
                List.of(),
                "Name")),
        "");
  }
}
