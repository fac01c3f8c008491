#include "thrown.h"
#include "window/virtual_display.h"

#include <periscena/window/window_frame.h>

#include <epoxy/gl.h>

#include <chrono>
#include <cstdlib>
#include <thread>

using namespace periscena;
using namespace periscena::window;

namespace {

/// Driver messages that speak of errors or undefined behaviour fail the test.
gl::DeviceOptions strict() {
  return {.on_message = [](const gl::DebugMessage& message) {
    const bool is_wrong =
        message.kind == gl::DebugMessage::Kind::error || message.kind == gl::DebugMessage::Kind::undefined;
    if (!is_wrong || message.from_compiler) return;
    FAIL_CHECK("the driver says: " << message.text);
  }};
}

/// Left half in one colour, right half in another, the upper rows white.
FrameGraph flag() {
  FrameGraph frame;
  frame.add(passes::fullscreen(
      {.name = "flag",
       .shader = gl::ShaderText::from_text("flag.frag",
                                           "#include \"periscena/fullscreen.glsl\"\nout vec4 color;\nvoid main() {\n"
                                           "  color = uv.x < 0.5 ? vec4(1, 0, 0, 1) : vec4(0, 0, 1, 1);\n"
                                           "  if (gl_FragCoord.y > frame.resolution.y - 10) color = vec4(1);\n}\n",
                                           passes::pass_shaders()),
       .writes = {{"color", frame.output()}}}));
  return frame;
}

/// Frames until a condition holds, at most for ten seconds; all events on the way.
template <class Condition>
std::vector<Event> frames_until(Window& window, const Condition& holds) {
  std::vector<Event> all;
  for (int i = 0; i < 1000 && !holds(all); ++i) {
    window.begin_frame();
    all.insert(all.end(), window.events().begin(), window.events().end());
    std::this_thread::sleep_for(std::chrono::milliseconds(10));
  }
  REQUIRE(holds(all));
  return all;
}

template <class Kind>
std::vector<Kind> only(const std::vector<Event>& events) {
  std::vector<Kind> found;
  for (const Event& event : events) {
    if (const Kind* one = std::get_if<Kind>(&event)) found.push_back(*one);
  }
  return found;
}

template <class Kind>
auto has(std::size_t count) {
  return [count](const std::vector<Event>& events) { return only<Kind>(events).size() >= count; };
}

std::array<int, 3> color(const Image& image, int x, int y) {
  const auto at = image.at(x, y);
  return {static_cast<int>(std::lround(at[0])), static_cast<int>(std::lround(at[1])),
          static_cast<int>(std::lround(at[2]))};
}
constexpr std::array<int, 3> red{255, 0, 0}, blue{0, 0, 255}, white{255, 255, 255}, black{0, 0, 0};

const std::string focus = "search --sync --onlyvisible --name Flag windowfocus --sync %1 ";

}  // namespace

TEST_CASE("without a display, no window is opened, and what was tried is said") {
  ::unsetenv("DISPLAY");
  ::unsetenv("WAYLAND_DISPLAY");
  try {
    Window window;
    FAIL("a window without a display");
  } catch (const Error& error) {
    CHECK(error.diagnostics()[0].slug == "no-window");
    CHECK_THAT(error.what(), Catch::Contains("DISPLAY not set") && Catch::Contains("xvfb-run"));
  }
  ::setenv("DISPLAY", ":63123", 1);
  CHECK(thrown_slug([] { Window window; }) == "no-window");
  ::unsetenv("DISPLAY");
  const VirtualDisplay display;  // none of it is in the way of a window later
  const Window window({.width = 64, .height = 48});
  CHECK(window.width() == 64);
}

TEST_CASE("a frame in a window is the frame that is read from the runner, to the byte") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 300, .height = 200, .device = strict()});
  WindowFrame shown(window, flag());
  CHECK(shown.diagnostics().empty());
  for (int i = 0; i < 3; ++i) {
    REQUIRE(window.begin_frame());
    shown.draw(window.seconds());
    const Image picture = window.picture();
    const Image read = shown.runner().read("output");
    REQUIRE(picture.width() == 300);
    REQUIRE(picture.height() == 200);
    REQUIRE(std::equal(picture.bytes().begin(), picture.bytes().end(), read.bytes().begin(), read.bytes().end()));
    CHECK(color(picture, 10, 100) == red);
    CHECK(color(picture, 290, 199) == blue);
    CHECK(color(picture, 290, 0) == white);
    window.end_frame();
  }
  // What the server shows is that, too.
  window.begin_frame();
  shown.draw(0);
  window.end_frame();
  CHECK(shown.plan_count() == 0);
}

TEST_CASE("a plan follows the size of the window, and the picture keeps its shape between bars") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 320, .height = 200, .device = strict()});
  WindowFrame whole(window, flag()), wide(window, flag(), {.aspect = 2, .bars = {0, 1, 0, 1}}),
      coarse(window, flag(), {.scale = 0.25});
  CHECK(wide.area() == PixelRect{0, 20, 320, 160});
  CHECK(coarse.runner().plan().width() == 80);
  window.set_size(500, 400);
  const auto events = frames_until(window, [&](const auto&) { return window.width() == 500; });
  const auto sizes = only<Resized>(events);
  REQUIRE(!sizes.empty());
  CHECK(sizes.back().width == 500);
  CHECK(sizes.back().height == 400);
  whole.draw(0);
  CHECK(whole.runner().plan().width() == 500);
  CHECK(whole.runner().plan().height() == 400);
  CHECK(color(window.picture(), 499, 399) == blue);
  wide.draw(0);
  CHECK(wide.area() == PixelRect{0, 75, 500, 250});
  const Image barred = window.picture();
  CHECK(color(barred, 250, 74) == std::array{0, 255, 0});
  CHECK(color(barred, 10, 75) == white);
  CHECK(color(barred, 10, 300) == red);
  CHECK(color(barred, 499, 324) == blue);
  CHECK(color(barred, 499, 325) == std::array{0, 255, 0});
  CHECK_FALSE(wide.pixel_at({250, 74}));
  CHECK(wide.pixel_at({250, 76}) == Vec2(250, 1));
  coarse.draw(0);
  CHECK(coarse.runner().plan().width() == 125);
  CHECK(coarse.pixel_at({400, 200}) == Vec2(100, 50));
  CHECK(color(window.picture(), 100, 200) == red);
  CHECK(whole.plan_count() == 1);
  CHECK(thrown_slug([&] { WindowFrame bad(window, flag(), {.aspect = -1}); }) == "bad-option");
  CHECK(thrown_slug([&] { WindowFrame bad(window, flag(), {.scale = 0}); }) == "bad-option");
  CHECK(thrown_slug([&] { WindowFrame bad(window, flag(), {.scale = std::nan("")}); }) == "bad-option");
}

TEST_CASE("resizing makes no programs, and a thousand sizes leave memory as it was") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 320, .height = 200, .device = strict()});
  WindowFrame shown(window, flag());
  const std::size_t programs = window.device().programs().size();
  std::mt19937 dice(3);
  for (int i = 0; i < 1000; ++i) {
    window.set_size(1 + static_cast<int>(dice() % 400), 1 + static_cast<int>(dice() % 300));
    window.begin_frame();
    shown.draw(0);
    window.end_frame();
  }
  CHECK(window.device().programs().size() == programs);
  window.set_size(90, 70);
  frames_until(window, [&](const auto&) { return window.width() == 90; });
  shown.draw(0);
  CHECK(shown.runner().plan().width() == 90);
  CHECK(color(window.picture(), 80, 60) == blue);
}

TEST_CASE("keys, text, pointer, buttons and the wheel arrive in order, in pixels from the upper left") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 320, .height = 200, .device = strict()});
  window.begin_frame();
  act("search --sync --onlyvisible --name Flag windowmove %1 100 50 windowfocus --sync %1");
  act("key a key shift+b key Escape key Page_Up");
  const auto keys = frames_until(window, has<KeyReleased>(5));
  const auto pressed = only<KeyPressed>(keys);
  REQUIRE(pressed.size() == 5);
  CHECK(pressed[0].key == Key::a);
  CHECK(pressed[0].with == Modifiers{});
  CHECK(pressed[1].key == Key::left_shift);
  CHECK(pressed[2].key == Key::b);
  CHECK(pressed[2].with.shift);
  CHECK(pressed[3].key == Key::escape);
  CHECK(pressed[4].key == Key::page_up);
  const auto typed = only<Typed>(keys);
  REQUIRE(typed.size() == 2);
  CHECK(typed[0].text == "a");
  CHECK(typed[1].text == "B");
  act("keydown w");
  frames_until(window, has<KeyPressed>(1));
  CHECK(window.is_held(Key::w));
  act("keyup w");
  frames_until(window, [&](const auto&) { return !window.is_held(Key::w); });
  act("mousemove --sync 110 60");
  act("mousemove --sync 150 90 mousedown 1");
  auto pointer = frames_until(window, has<ButtonPressed>(1));
  CHECK(only<ButtonPressed>(pointer)[0].position == Vec2(50, 40));
  CHECK(only<ButtonPressed>(pointer)[0].button == Button::left);
  CHECK(only<PointerMoved>(pointer).back().position == Vec2(50, 40));
  CHECK(window.is_held(Button::left));
  CHECK(window.pointer() == Vec2(50, 40));
  act("mousemove --sync 160 95 mouseup 1 click 3 click 4");
  pointer = frames_until(window, has<Scrolled>(1));
  CHECK(only<PointerMoved>(pointer).back().by == Vec2(10, 5));
  CHECK(only<ButtonReleased>(pointer)[0].position == Vec2(60, 45));
  CHECK(only<ButtonPressed>(pointer)[0].button == Button::right);
  CHECK(only<Scrolled>(pointer)[0].by == Vec2(0, 1));
  act("mousemove --sync 900 700");
  frames_until(window, has<PointerLeft>(1));
  CHECK(to_string(Key::page_up) == "page_up");
  CHECK(to_string(Key::unknown) == "unknown");
}

TEST_CASE("a window closes when it is asked to, unless the program keeps it open") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 100, .height = 80, .device = strict()});
  REQUIRE(window.begin_frame());
  window.close();
  REQUIRE_FALSE(window.begin_frame());
  window.keep_open();
  REQUIRE(window.begin_frame());
  // Two windows, each with a device: what one draws is not in the other.
  Window other({.title = "Other", .width = 120, .height = 60, .device = strict()});
  WindowFrame in_other(other, flag()), in_first(window, flag(), {.aspect = 1});
  in_first.draw(0);
  CHECK(color(window.picture(), 2, 40) == black);
  other.begin_frame();
  in_other.draw(0);
  CHECK(color(other.picture(), 2, 40) == red);
  other.end_frame();
  window.begin_frame();
  in_first.draw(0);
  CHECK(color(window.picture(), 50, 5) == white);
  window.end_frame();
}

TEST_CASE("a frame that can't be planned or run leaves the last good one in the window") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 100, .height = 80, .device = strict()});
  WindowFrame shown(window, flag());
  FrameGraph unplanned;
  unplanned.add(passes::fullscreen({.name = "lost", .writes = {}}));
  CHECK(shown.use(unplanned).has_errors());
  FrameGraph misspelt = flag();
  misspelt.add(passes::fullscreen({.name = "bad",
                                   .shader = gl::ShaderText::from_text("bad.frag",
                                                                       "#version 450 core\nout vec4 color;\n"
                                                                       "void main() { color = vec5(1); }\n",
                                                                       passes::pass_shaders()),
                                   .writes = {{"color", misspelt.output()}}}));
  const Diagnostics found = shown.use(misspelt);
  REQUIRE(found.has_errors());
  for (int i = 0; i < 2; ++i) {
    window.begin_frame();
    shown.draw(0);
    CHECK(color(window.picture(), 10, 40) == red);
    window.end_frame();
  }
  CHECK_FALSE(shown.use(flag()).has_errors());
  shown.draw(0);
  CHECK(color(window.picture(), 90, 40) == blue);
}

TEST_CASE("frames are drawn on change alone where the program wants that") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 100, .height = 80, .redraw = Redraw::on_change, .device = strict()});
  frames_until(window, [](const auto&) { return true; });
  window.begin_frame();
  // Until another thread's key comes, frames begin for what the server says alone: without waiting there are thousands.
  std::thread user([] { act(focus + "key x"); });
  int frames = 0;
  for (bool pressed = false; !pressed; ++frames) {
    window.begin_frame();
    for (const Event& event : window.events()) pressed = pressed || std::holds_alternative<KeyPressed>(event);
  }
  user.join();
  CHECK(frames < 50);
  window.request_redraw();
  window.begin_frame();  // at once
  window.set_redraw(Redraw::always);
  for (int i = 0; i < 3; ++i) window.begin_frame();
}

TEST_CASE("a minimised window draws nothing, and wakes") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 100, .height = 80, .device = strict()});
  WindowFrame shown(window, flag());
  frames_until(window, [](const auto&) { return true; });
  const std::string id = act("search --sync --onlyvisible --name Flag");
  set_minimised(id, true);
  frames_until(window, [&](const auto&) { return !window.has_pixels(); });
  const std::uint64_t sent = window.device().state().sent();
  const int plans = shown.plan_count();
  shown.draw(0);
  window.end_frame();
  CHECK(window.device().state().sent() == sent);
  CHECK(shown.plan_count() == plans);
  CHECK_FALSE(shown.pixel_at({500, 500}));
  // It waits without a frame until it is there again.
  std::thread user([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(300));
    set_minimised(id, false);
  });
  REQUIRE(window.begin_frame());
  user.join();
  frames_until(window, [&](const auto&) { return window.width() == 100 && window.height() == 80; });
  shown.draw(0);
  CHECK(color(window.picture(), 10, 40) == red);
  CHECK(shown.plan_count() == plans);
}

TEST_CASE("a window has the depth of the frame in it, for drawing over the picture") {
  const VirtualDisplay display;
  Window window({.title = "Flag", .width = 100, .height = 80, .depth = true, .device = strict()});
  FrameGraph frame = flag();
  const auto depth = frame.target("depth", {.format = Format::depth32f});
  frame.add(
      passes::fullscreen({.name = "halves",
                          .shader = gl::ShaderText::from_text("halves.frag",
                                                              "#include \"periscena/fullscreen.glsl\"\nvoid main() {\n"
                                                              "  gl_FragDepth = uv.x < 0.5 ? 0.75 : 0.25;\n}\n",
                                                              passes::pass_shaders()),
                          .writes = {{"depth", depth}}}));
  frame.keep(depth);
  WindowFrame shown(window, frame, {.depth = "depth", .aspect = 1});  // 80 x 80, 10 pixels from the left
  window.begin_frame();
  shown.draw(0);
  const auto depth_at = [](int x) {
    float value = -1;
    glReadPixels(x, 40, 1, 1, GL_DEPTH_COMPONENT, GL_FLOAT, &value);
    return value;
  };
  CHECK(depth_at(12) == Approx(0.75).margin(1e-6));
  CHECK(depth_at(88) == Approx(0.25).margin(1e-6));
  CHECK(color(window.picture(), 12, 40) == red);
  window.end_frame();
  Window plain({.title = "Flag", .width = 100, .height = 80, .device = strict()});
  WindowFrame without(plain, frame, {.depth = "depth"});
  CHECK(thrown_slug([&] { without.draw(0); }) == "not-presentable");
  WindowFrame misspelt(plain, frame, {.depth = "depht"});
  CHECK(thrown_slug([&] { misspelt.draw(0); }) == "unknown-target");
}

TEST_CASE("a window that keeps to a rate begins frames all the same") {
  const VirtualDisplay display;
  Window window({.width = 60, .height = 40, .vertical_sync = false, .max_frame_rate = 500});
  for (int i = 0; i < 20; ++i) REQUIRE(window.begin_frame());
}

TEST_CASE("windows of no size, and rates that are none, are refused") {
  CHECK(thrown_slug([] { Window window({.width = 0}); }) == "bad-size");
  CHECK(thrown_slug([] { Window window({.height = -3}); }) == "bad-size");
  CHECK(thrown_slug([] { Window window({.width = 1 << 20}); }) == "bad-size");
  const VirtualDisplay display;
  CHECK(thrown_slug([] { Window window({.max_frame_rate = -1}); }) == "bad-option");
  CHECK(thrown_slug([] { Window window({.max_frame_rate = std::nan("")}); }) == "bad-option");
  Window window({.title = "Flag", .width = 100, .height = 80, .full_screen = true, .device = strict()});
  frames_until(window, [&](const auto&) { return window.width() == 1600 && window.height() == 1200; });
  CHECK(window.is_full_screen());
  window.set_full_screen(false);
  frames_until(window, [&](const auto&) { return window.width() == 100 && window.height() == 80; });
  const gl::Texture depth({.width = 100, .height = 80, .format = Format::depth32f}, "depth");
  CHECK(thrown_slug([&] { window.present(depth, {0, 0, 100, 80}); }) == "not-presentable");
}
