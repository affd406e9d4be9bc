#include "operators/make/FontData.h"

// The assembler includes the files, so that no tool and no generated source is needed.
#define SEEDLOOM_FONT(NAME, FILE)                                                                                                   \
    __asm__(".section .rodata\n.balign 16\nseedloom_font_" #NAME ":\n.incbin \"" SEEDLOOM_FONTS "/" FILE "\"\nseedloom_font_" #NAME \
            "_end:\n.byte 0\n.previous\n");                                                                                         \
    extern "C" const char seedloom_font_##NAME[], seedloom_font_##NAME##_end[]

SEEDLOOM_FONT(regular, "Inter-Regular.otf");
SEEDLOOM_FONT(medium, "Inter-Medium.otf");
SEEDLOOM_FONT(semibold, "Inter-SemiBold.otf");
SEEDLOOM_FONT(bold, "Inter-Bold.otf");
SEEDLOOM_FONT(mono, "JetBrainsMono-Regular.ttf");

namespace seedloom {

std::string_view fontBytes(std::string_view name) {
    const auto between = [](const char* from, const char* to) { return std::string_view(from, std::size_t(to - from)); };
    if (name == "medium") return between(seedloom_font_medium, seedloom_font_medium_end);
    if (name == "semibold") return between(seedloom_font_semibold, seedloom_font_semibold_end);
    if (name == "bold") return between(seedloom_font_bold, seedloom_font_bold_end);
    if (name == "mono") return between(seedloom_font_mono, seedloom_font_mono_end);
    return between(seedloom_font_regular, seedloom_font_regular_end);
}

}  // namespace seedloom
