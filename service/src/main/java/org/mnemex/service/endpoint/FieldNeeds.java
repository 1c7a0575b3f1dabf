package org.mnemex.service.endpoint;

import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.NearestName;
import org.mnemex.sync.definition.InvalidDefinitionException;

/**
 * Looks up fields that a definition names.
 *
 * @param schema the fields of the index
 */
record FieldNeeds(Schema schema) {
  Field needUse(String name, Use use, List<String> path) {
    Field field = need(name, path);
    if (!field.uses().contains(use)) {
      throw lacks(field, use, path);
    }
    return field;
  }

  Field needStored(String name, List<String> path) {
    Field field = need(name, path);
    if (!field.isStored()) {
      throw lacks(field, Use.SHOW, path);
    }
    return field;
  }

  static InvalidDefinitionException lacks(Field field, Use use, List<String> path) {
    return new InvalidDefinitionException(
        path,
        "field '%s' does not have the use '%s'; add it in the index definition"
            .formatted(field.name(), use.word()),
        null);
  }

  Field need(String name, List<String> path) {
    if (!schema.has(name)) {
      Set<String> names =
          schema.fields().stream().map(Field::name).collect(Collectors.toUnmodifiableSet());
      throw new InvalidDefinitionException(
          path, "the index has no field '" + name + "'", NearestName.to(name, names));
    }
    return schema.field(name);
  }

  /** A text field whose values complete what is typed. */
  Field needCompleting(String name, List<String> path) {
    Field field = needUse(name, Use.SUGGEST, path);
    if (field.type() != FieldType.TEXT || !field.hasTerms() || !field.isStored()) {
      throw new InvalidDefinitionException(
          path,
          "field '%s' cannot complete words: it needs the uses 'search', 'show' and 'suggest'"
              .formatted(name),
          null);
    }
    return field;
  }

  /** A number or date of which the highest can come first. */
  Field needOrdered(String name, List<String> path) {
    Field field = needUse(name, Use.SORT, path);
    if (!field.type().isNumeric()) {
      throw new InvalidDefinitionException(
          path, "field '%s' is neither a number nor a date".formatted(name), null);
    }
    return field;
  }
}
