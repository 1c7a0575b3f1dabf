package org.mnemex.service.web;

import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.springframework.context.annotation.Configuration;
import org.springframework.http.HttpInputMessage;
import org.springframework.http.HttpOutputMessage;
import org.springframework.http.MediaType;
import org.springframework.http.converter.AbstractHttpMessageConverter;
import org.springframework.http.converter.HttpMessageConverters;
import org.springframework.http.converter.HttpMessageNotReadableException;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Answers that are lists can be asked for as CSV (RFC 4180) or as NDJSON, for spreadsheets and
 * scripts: {@code Accept: text/csv}.
 */
@Configuration
class ListTables implements WebMvcConfigurer {
  private final JsonMapper json;

  ListTables(JsonMapper json) {
    this.json = json;
  }

  @Override
  public void configureMessageConverters(HttpMessageConverters.ServerBuilder converters) {
    // After JSON, which is what a caller gets that does not ask for anything.
    converters.configureMessageConvertersList(list -> list.add(new Tables(json)));
  }

  private static final class Tables extends AbstractHttpMessageConverter<List<?>> {
    private static final MediaType CSV = new MediaType("text", "csv", StandardCharsets.UTF_8);
    private static final MediaType NDJSON = new MediaType("application", "x-ndjson");

    /** Spreadsheets take texts that begin so for formulas. */
    private static final String FORMULAS = "=+-@\t\r";

    private final JsonMapper json;

    Tables(JsonMapper json) {
      super(CSV, NDJSON);
      this.json = json;
    }

    @Override
    protected boolean supports(Class<?> type) {
      return List.class.isAssignableFrom(type);
    }

    @Override
    public boolean canRead(Class<?> type, @org.jspecify.annotations.Nullable MediaType media) {
      return false;
    }

    @Override
    protected List<?> readInternal(Class<? extends List<?>> type, HttpInputMessage message) {
      throw new HttpMessageNotReadableException("a list is not read from a table", message);
    }

    @Override
    protected void writeInternal(List<?> rows, HttpOutputMessage message) throws IOException {
      List<JsonNode> nodes = new ArrayList<>();
      for (Object row : rows) {
        nodes.add(json.valueToTree(row));
      }
      Writer out = new OutputStreamWriter(message.getBody(), StandardCharsets.UTF_8);
      if (CSV.equalsTypeAndSubtype(message.getHeaders().getContentType())) {
        table(nodes, out);
      } else {
        for (JsonNode node : nodes) {
          out.write(json.writeValueAsString(node) + "\n");
        }
      }
      out.flush();
    }

    private static void table(List<JsonNode> rows, Writer out) throws IOException {
      Set<String> columns = new LinkedHashSet<>();
      rows.forEach(row -> columns.addAll(row.propertyNames()));
      CsvWriter csv = CsvWriter.builder().build(out);
      csv.writeRecord(columns);
      for (JsonNode row : rows) {
        csv.writeRecord(columns.stream().map(column -> text(row.path(column))).toList());
      }
      csv.flush();
    }

    private static String text(JsonNode value) {
      if (value.isMissingNode() || value.isNull()) {
        return "";
      }
      if (!value.isString()) {
        return value.toString();
      }
      String text = value.stringValue();
      return !text.isEmpty() && FORMULAS.indexOf(text.charAt(0)) >= 0 ? "'" + text : text;
    }
  }
}
