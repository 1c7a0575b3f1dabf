package org.mnemex.sync.source;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.Size;
import net.jqwik.api.constraints.StringLength;

/** Rows with shared names, against maps of their own. */
class RowTest {
  @Property
  void aRowIsAMapInTheOrderOfItsNames(
      @ForAll @Size(max = 8) Set<@StringLength(max = 2) String> names,
      @ForAll @Size(max = 12) List<Integer> values) {
    List<String> known = new ArrayList<>(names);
    RowNames shared = new RowNames(names);
    Row other = shared.row();
    Row row = shared.row();
    Map<String, Object> expected = new TreeMap<>();
    for (int i = 0; i < values.size() && !known.isEmpty(); i++) {
      String name = known.get(Math.floorMod(values.get(i), known.size()));
      assertThat(row.put(name, values.get(i))).isEqualTo(expected.put(name, values.get(i)));
    }
    assertThat(row).isEqualTo(expected).hasSameSizeAs(expected);
    assertThat(row.toString()).isEqualTo(expected.toString());
    List<String> visited = new ArrayList<>();
    row.forEach((name, value) -> visited.add(name + value));
    assertThat(visited)
        .isEqualTo(expected.entrySet().stream().map(one -> one.getKey() + one.getValue()).toList());
    known.forEach(name -> assertThat(row.containsKey(name)).isEqualTo(expected.containsKey(name)));
    assertThat(row.get("no such name")).isNull();
    assertThat(other).isEmpty();
    assertThatThrownBy(() -> row.put("no such name", 1))
        .isInstanceOf(IllegalArgumentException.class);
  }
}
