package org.mnemex.service.web;

import com.fasterxml.jackson.databind.JavaType;
import io.swagger.v3.core.converter.AnnotatedType;
import io.swagger.v3.core.converter.ModelConverter;
import io.swagger.v3.core.converter.ModelConverterContext;
import io.swagger.v3.core.jackson.ModelResolver;
import io.swagger.v3.core.jackson.TypeNameResolver;
import io.swagger.v3.core.util.Json;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.media.Schema;
import java.lang.reflect.RecordComponent;
import java.util.Iterator;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.springdoc.core.providers.ObjectMapperProvider;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** How the OpenAPI document describes what is sent and answered. */
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
  ModelConverter requiredComponents() {
    return new RequiredComponents();
  }

  /** What cannot be null is always there. */
  static final class RequiredComponents implements ModelConverter {
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
          require(described, java.getRawClass());
        }
      }
      return resolved;
    }

    private static void require(Schema<?> schema, Class<?> type) {
      for (RecordComponent component : type.getRecordComponents()) {
        boolean optional = component.getAnnotatedType().isAnnotationPresent(Nullable.class);
        boolean there = schema.getProperties().containsKey(component.getName());
        boolean known =
            schema.getRequired() != null && schema.getRequired().contains(component.getName());
        if (!optional && there && !known) {
          schema.addRequiredItem(component.getName());
        }
      }
    }
  }
}
