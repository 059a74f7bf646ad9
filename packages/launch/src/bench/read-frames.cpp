// The yardsticks for reading frames: the OpenEXR library, libtiff and libjpeg, each on one thread and in memory that is
// used again. Reads every file as often as the first word says and prints the least processor time of each, in ms.
#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfInputFile.h>
#include <ImfThreading.h>
#include <algorithm>
#include <cstddef>
#include <cstdio>
#include <cstdlib>
#include <ctime>
#include <string>
#include <tiffio.h>
#include <vector>
// Behind stdio, which it does not bring along.
#include <jpeglib.h>

static double processorTime()
{
    timespec now;
    clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &now);
    return now.tv_sec * 1e3 + now.tv_nsec / 1e6;
}

static void readExr(const char* name)
{
    static std::vector<std::vector<char>> planes;
    Imf::InputFile file(name, 0);
    const auto window = file.header().dataWindow();
    const size_t width = window.max.x - window.min.x + 1;
    const size_t height = window.max.y - window.min.y + 1;
    Imf::FrameBuffer buffer;
    size_t used = 0;
    for (auto c = file.header().channels().begin(); c != file.header().channels().end(); ++c, ++used) {
        const size_t bytes = c.channel().type == Imf::HALF ? 2 : 4;
        if (planes.size() <= used) planes.emplace_back();
        planes[used].resize(width * height * bytes);
        char* base = planes[used].data() - (window.min.y * width + window.min.x) * bytes;
        buffer.insert(c.name(), Imf::Slice(c.channel().type, base, bytes, width * bytes));
    }
    file.setFrameBuffer(buffer);
    file.readPixels(window.min.y, window.max.y);
}

static void readTiff(const char* name)
{
    static std::vector<char> strip;
    TIFF* file = TIFFOpen(name, "r");
    strip.resize(TIFFStripSize(file));
    for (unsigned i = 0; i < TIFFNumberOfStrips(file); i++) TIFFReadEncodedStrip(file, i, strip.data(), -1);
    TIFFClose(file);
}

static void readJpeg(const char* name)
{
    static std::vector<unsigned char> row;
    FILE* file = fopen(name, "rb");
    jpeg_decompress_struct state;
    jpeg_error_mgr errors;
    state.err = jpeg_std_error(&errors);
    jpeg_create_decompress(&state);
    jpeg_stdio_src(&state, file);
    jpeg_read_header(&state, TRUE);
    jpeg_start_decompress(&state);
    row.resize(state.output_width * state.output_components);
    unsigned char* line = row.data();
    while (state.output_scanline < state.output_height) jpeg_read_scanlines(&state, &line, 1);
    jpeg_finish_decompress(&state);
    jpeg_destroy_decompress(&state);
    fclose(file);
}

int main(int count, char** words)
{
    Imf::setGlobalThreadCount(0);
    const int rounds = atoi(words[1]);
    for (int i = 2; i < count; i++) {
        const std::string name = words[i];
        const std::string kind = name.substr(name.rfind('.') + 1);
        double least = 1e12;
        for (int round = 0; round < rounds; round++) {
            const double began = processorTime();
            if (kind == "exr") readExr(words[i]);
            else if (kind == "tif") readTiff(words[i]);
            else readJpeg(words[i]);
            least = std::min(least, processorTime() - began);
        }
        printf("%.2f\n", least);
    }
    return 0;
}
