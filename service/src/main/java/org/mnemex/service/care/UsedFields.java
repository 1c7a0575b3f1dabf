package org.mnemex.service.care;

import java.util.Collection;
import java.util.HashSet;
import java.util.Set;
import java.util.regex.Pattern;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.service.definition.CompletionSource;
import org.mnemex.service.definition.EndpointDefinition;

/** Which fields of an index its endpoints search, and which they name at all. */
final class UsedFields {
  private final Set<String> searched = new HashSet<>();
  private final Set<String> named = new HashSet<>();
  private final StringBuilder filters = new StringBuilder();

  private UsedFields() {}

  static UsedFields of(String index, Collection<EndpointDefinition> endpoints, Schema schema) {
    UsedFields used = new UsedFields();
    for (EndpointDefinition endpoint : endpoints) {
      if (endpoint.index().equals(index)) {
        used.add(endpoint, schema);
      }
    }
    return used;
  }

  private void add(EndpointDefinition endpoint, Schema schema) {
    if (endpoint.search().isEmpty()) {
      schema.fields().stream()
          .filter(field -> field.type() == FieldType.TEXT && field.uses().contains(Use.SEARCH))
          .forEach(field -> searched.add(field.name()));
    }
    searched.addAll(endpoint.search().keySet());
    endpoint.languages().values().forEach(fields -> searched.addAll(fields.keySet()));
    named.addAll(endpoint.countable());
    named.addAll(endpoint.show());
    named.addAll(endpoint.highlights().keySet());
    endpoint.facets().values().forEach(counted -> named.add(counted.field()));
    endpoint.sorts().values().forEach(sort -> sort.forEach(by -> named.add(by.field())));
    endpoint.groups().values().forEach(group -> named.add(group.field()));
    endpoint.signals().forEach(signal -> named.add(signal.field()));
    for (CompletionSource source : endpoint.completions()) {
      if (source instanceof CompletionSource.Values values) {
        named.addAll(values.of());
        if (values.recent() != null) {
          named.add(values.recent());
        }
      }
    }
    filters.append(endpoint.only()).append('\n');
    endpoint.lifts().forEach(lift -> filters.append(lift.where()).append('\n'));
  }

  /** Whether words are searched in it, or in a field of its rows. */
  boolean isSearched(Field field) {
    return isIn(searched, field);
  }

  /** Whether an endpoint names it, or a field of its rows; in case of doubt it does. */
  boolean isNamed(Field field) {
    return isSearched(field)
        || isIn(named, field)
        || Pattern.compile("\\b" + Pattern.quote(field.name()) + "\\b").matcher(filters).find();
  }

  private static boolean isIn(Set<String> names, Field field) {
    return names.contains(field.name())
        || names.stream().anyMatch(name -> name.startsWith(field.name() + "."));
  }
}
