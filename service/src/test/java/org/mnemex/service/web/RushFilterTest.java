package org.mnemex.service.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.service.compute.EventStreams;
import org.mnemex.service.compute.SearchSlots;
import org.springframework.mock.web.MockFilterChain;
import org.springframework.mock.web.MockHttpServletRequest;
import org.springframework.mock.web.MockHttpServletResponse;
import org.springframework.web.cors.CorsConfiguration;

class RushFilterTest {
  private static final String PAGE = "https://plants.quillmere.example";

  @ParameterizedTest
  @CsvSource({
    "/search/plant-search, true, 503, 128 wait",
    "/search/plant-search, false, 200,",
    "/api/events, true, 503, 20 a second",
    "/api/events, false, 200,",
    "/api/overview, true, 200,"
  })
  void onlySearchesAndStreamsAreRefusedAndOnlyInARush(
      String path, boolean rush, int status, String why) throws Exception {
    SearchSlots slots = mock();
    when(slots.isFull()).thenReturn(rush);
    when(slots.fullness()).thenReturn("4 run, 128 wait");
    EventStreams streams = mock();
    when(streams.mayOpen()).thenReturn(!rush);
    when(streams.openingLimits()).thenReturn("20 a second");
    EndpointOrigins origins = mock();
    CorsConfiguration allowed = new CorsConfiguration();
    allowed.addAllowedOrigin(PAGE);
    when(origins.getCorsConfiguration(any())).thenReturn(allowed);
    MockHttpServletRequest request = new MockHttpServletRequest("GET", path);
    request.addHeader("Origin", PAGE);
    MockHttpServletResponse response = new MockHttpServletResponse();
    MockFilterChain chain = new MockFilterChain();
    new RushFilter(slots, streams, origins).doFilter(request, response, chain);
    assertThat(response.getStatus()).isEqualTo(status);
    assertThat(chain.getRequest() == null).isEqualTo(status == 503);
    if (status == 503) {
      assertThat(response.getHeader("Retry-After")).isNotBlank();
      assertThat(response.getContentAsString()).contains("/problems/too-busy", why);
      assertThat(response.getHeader("Access-Control-Allow-Origin"))
          .isEqualTo(path.startsWith("/search/") ? PAGE : null);
    }
  }
}
