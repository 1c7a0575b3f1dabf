package org.mnemex.service.web;

import com.fasterxml.jackson.annotation.JsonProperty;
import com.fasterxml.jackson.databind.JavaType;
import com.github.therapi.runtimejavadoc.CommentFormatter;
import com.github.therapi.runtimejavadoc.ParamJavadoc;
import com.github.therapi.runtimejavadoc.RuntimeJavadoc;
import io.swagger.v3.core.converter.AnnotatedType;
import io.swagger.v3.core.converter.ModelConverter;
import io.swagger.v3.core.converter.ModelConverterContext;
import io.swagger.v3.core.jackson.ModelResolver;
import io.swagger.v3.core.jackson.TypeNameResolver;
import io.swagger.v3.core.util.Json;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.media.Schema;
import java.beans.Introspector;
import java.lang.reflect.Method;
import java.lang.reflect.RecordComponent;
import java.util.Iterator;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.springdoc.core.providers.ObjectMapperProvider;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** Describes requests and answers in the OpenAPI document. */
@Configuration
public class ApiDescription {
  @Bean
  OpenAPI description() {
    return new OpenAPI()
        .info(
            new Info()
                .title("Mnemex")
                .version("0.1.0")
                .description(
                    "Search endpoints and administration. Every error is a problem document"
                        + " (RFC 9457)."));
  }

  @Bean
  ModelResolver modelResolver(ObjectMapperProvider mappers) {
    return new ModelResolver(mappers.jsonMapper(), new OuterNames());
  }

  /** A record within another has the other's name before its own: several have a {@code Facet}. */
  static final class OuterNames extends TypeNameResolver {
    @Override
    protected String nameForClass(Class<?> type, Set<Options> options) {
      Class<?> outer = type.getDeclaringClass();
      String own = super.nameForClass(type, options);
      return outer == null || outer.getSimpleName().endsWith("Controller")
          ? own
          : nameForClass(outer, options) + own;
    }
  }

  @Bean
  ModelConverter recordComponents() {
    return new RecordComponents();
  }

  /**
   * Requires components that cannot be null, and describes all components in the words of their
   * Javadoc.
   */
  static final class RecordComponents implements ModelConverter {
    private static final CommentFormatter TEXT = new CommentFormatter();

    @Override
    public @Nullable Schema<?> resolve(
        AnnotatedType type, ModelConverterContext context, Iterator<ModelConverter> chain) {
      if (!chain.hasNext()) {
        return null;
      }
      Schema<?> resolved = chain.next().resolve(type, context, chain);
      JavaType java = Json.mapper().constructType(type.getType());
      if (resolved != null && java != null && java.getRawClass().isRecord()) {
        String ref = resolved.get$ref();
        Schema<?> described =
            ref == null
                ? resolved
                : context.getDefinedModels().get(ref.substring(ref.lastIndexOf('/') + 1));
        if (described != null && described.getProperties() != null) {
          complete(described, java.getRawClass());
        }
      }
      return resolved;
    }

    private static void complete(Schema<?> schema, Class<?> type) {
      Map<String, String> texts =
          RuntimeJavadoc.getJavadoc(type).getRecordComponents().stream()
              .collect(Collectors.toMap(ParamJavadoc::getName, p -> TEXT.format(p.getComment())));
      for (Method method : type.getDeclaredMethods()) {
        Schema<?> property =
            schema
                .getProperties()
                .get(Introspector.decapitalize(method.getName().replaceFirst("^is", "")));
        if (method.getName().startsWith("is") && property != null) {
          property.setDescription(TEXT.format(RuntimeJavadoc.getJavadoc(method).getComment()));
        }
      }
      for (RecordComponent component : type.getRecordComponents()) {
        JsonProperty named = component.getAccessor().getAnnotation(JsonProperty.class);
        String name = named == null ? component.getName() : named.value();
        Schema<?> property = schema.getProperties().get(name);
        if (property == null) {
          continue;
        }
        String text = texts.getOrDefault(component.getName(), "");
        if (!text.isEmpty()) {
          property.setDescription(sentence(text));
        }
        boolean optional = component.getAnnotatedType().isAnnotationPresent(Nullable.class);
        if (!optional && (schema.getRequired() == null || !schema.getRequired().contains(name))) {
          schema.addRequiredItem(name);
        }
      }
    }

    /** As CommonMark, which descriptions are written in. */
    private static String sentence(String text) {
      String joined = text.replaceAll("</?code>", "`").replaceAll("\\s+", " ").strip();
      return Character.toUpperCase(joined.charAt(0)) + joined.substring(1) + ".";
    }
  }
}
