package org.mnemex.engine.schema;

import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.mnemex.engine.error.UnknownFieldException;
import org.mnemex.engine.text.NearestName;

/** The fields of an index, in the order of their definition; a field's place is its number. */
public final class Schema {
  private final Map<String, Field> fields = new LinkedHashMap<>();
  private final Map<String, Field> withChildren = new LinkedHashMap<>();

  public Schema(List<Field> fields) {
    for (Field field : fields) {
      if (this.fields.put(field.name(), field) != null) {
        throw new IllegalArgumentException("field '" + field.name() + "' stands twice");
      }
      withChildren.put(field.name(), field);
      field.children().forEach(child -> withChildren.put(child.name(), child));
    }
  }

  /** All fields, in order, without the children of groups. */
  public Collection<Field> fields() {
    return fields.values();
  }

  /** All fields, a group before its children; a field's place here is its number in the files. */
  public Collection<Field> fieldsAndChildren() {
    return withChildren.values();
  }

  /** Whether there is a field of that name. */
  public boolean has(String name) {
    return withChildren.containsKey(name);
  }

  /**
   * The field of that name.
   *
   * @throws UnknownFieldException with the nearest name, if there is none
   */
  public Field field(String name) {
    Field field = withChildren.get(name);
    if (field == null) {
      throw new UnknownFieldException(name, NearestName.to(name, withChildren.keySet()));
    }
    return field;
  }

  /** The group that a field of child rows belongs to. */
  public Field groupOf(Field child) {
    return field(child.name().substring(0, child.name().indexOf('.')));
  }

  /** Two schemas with the same fingerprint have identical index files. */
  public String fingerprint() {
    return fields.values().stream().map(Field::signature).collect(Collectors.joining("; "));
  }
}
