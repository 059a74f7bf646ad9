// The yardstick for EXR: reads every channel of each file with the OpenEXR library, on one thread.
#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfInputFile.h>
#include <ImfThreading.h>
#include <cstddef>
#include <vector>

int main(int count, char** files)
{
    Imf::setGlobalThreadCount(0);
    for (int i = 1; i < count; i++) {
        Imf::InputFile file(files[i], 0);
        const auto window = file.header().dataWindow();
        const size_t width = window.max.x - window.min.x + 1;
        const size_t height = window.max.y - window.min.y + 1;
        std::vector<std::vector<char>> planes;
        Imf::FrameBuffer buffer;
        for (auto c = file.header().channels().begin(); c != file.header().channels().end(); ++c) {
            const size_t bytes = c.channel().type == Imf::HALF ? 2 : 4;
            planes.emplace_back(width * height * bytes);
            char* base = planes.back().data() - (window.min.y * width + window.min.x) * bytes;
            buffer.insert(c.name(), Imf::Slice(c.channel().type, base, bytes, width * bytes));
        }
        file.setFrameBuffer(buffer);
        file.readPixels(window.min.y, window.max.y);
    }
    return 0;
}
