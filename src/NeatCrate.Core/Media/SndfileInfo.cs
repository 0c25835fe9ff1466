using System.Runtime.InteropServices;

namespace NeatCrate.Core.Media;

/// <summary>What libsndfile tells of a file, and is told of one to be written: SF_INFO, as its header sndfile.h lays it out.</summary>
[StructLayout(LayoutKind.Sequential)]
internal struct SndfileInfo
{
    public long Frames;
    public int SampleRate;
    public int Channels;
    public int Format;
    public int Sections;
    public int Seekable;
}
