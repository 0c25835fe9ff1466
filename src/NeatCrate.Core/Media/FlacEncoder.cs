using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace NeatCrate.Core.Media;

/// <summary>
/// Packs samples as FLAC frames (RFC 9639) through libsndfile. What stands before the frames, the marker and the metadata
/// blocks, is not passed on: whoever writes the file has blocks of its own, and takes the stream's own block from here.
/// </summary>
internal sealed unsafe partial class FlacEncoder : IDisposable
{
    private const string Library = "libsndfile.so.1";
    private const int WriteMode = 0x20;
    private const int FlacFormat = 0x170000;
    private const int BlockHeadBytes = 4;
    private const int MarkBytes = 4;
    private const int StreamInfoBytes = 34;

    private readonly Action<ReadOnlySpan<byte>> _frames;
    private readonly MemoryStream _head = new();
    private readonly int _channels;
    private GCHandle _self;
    private nint _file;
    private long _position;
    private long _length;
    private int _headBytes = -1;
    private Exception? _failure;

    [StructLayout(LayoutKind.Sequential)]
    private struct VirtualFile
    {
        public delegate* unmanaged[Cdecl]<nint, long> Length;
        public delegate* unmanaged[Cdecl]<long, int, nint, long> Seek;
        public delegate* unmanaged[Cdecl]<nint, long, nint, long> Read;
        public delegate* unmanaged[Cdecl]<nint, long, nint, long> Write;
        public delegate* unmanaged[Cdecl]<nint, long> Tell;
    }

    /// <summary>Begins a stream.</summary>
    /// <param name="sampleRate">Sample rate in Hz.</param>
    /// <param name="channels">Number of channels.</param>
    /// <param name="bits">Bits per sample: 8, 16 or 24.</param>
    /// <param name="frames">Gets the frames, in order.</param>
    /// <exception cref="UnreadableMediaException">libsndfile is not there, or cannot pack this.</exception>
    public FlacEncoder(int sampleRate, int channels, int bits, Action<ReadOnlySpan<byte>> frames)
    {
        (_frames, _channels) = (frames, channels);
        _self = GCHandle.Alloc(this);
        var file = new VirtualFile { Length = &LengthOf, Seek = &SeekTo, Read = &ReadFrom, Write = &WriteTo, Tell = &TellOf };
        var info = new SndfileInfo { SampleRate = sampleRate, Channels = channels, Format = FlacFormat | bits switch { 8 => 1, 16 => 2, _ => 3 } };
        try
        {
            _file = Open(file, WriteMode, ref info, GCHandle.ToIntPtr(_self));
            if (_file == 0)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.SoundNotDecoded) { Detail = Marshal.PtrToStringUTF8(Error(0)) });
            }
        }
        catch (DllNotFoundException e)
        {
            _self.Free();
            throw new UnreadableMediaException(new Fault(FaultCode.LibraryMissing) { Name = "libsndfile", Other = "libsndfile1" }, e);
        }
    }

    /// <summary>Packs interleaved samples of 32 bits, the highest used first.</summary>
    public void Write(ReadOnlySpan<int> interleaved)
    {
        var frames = interleaved.Length / _channels;
        if (WriteIntegers(_file, interleaved, frames) != frames || _failure is not null)
        {
            throw _failure ?? new UnreadableMediaException(new Fault(FaultCode.SoundNotDecoded) { Detail = Marshal.PtrToStringUTF8(Error(_file)) });
        }
    }

    /// <summary>Ends the stream.</summary>
    /// <returns>The body of its STREAMINFO block (RFC 9639, section 8.2), with its length and its checksum.</returns>
    public byte[] Finish()
    {
        Close();
        if (_failure is not null)
        {
            throw _failure;
        }
        return _head.ToArray()[(MarkBytes + BlockHeadBytes)..(MarkBytes + BlockHeadBytes + StreamInfoBytes)];
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        Close();
        if (_self.IsAllocated)
        {
            _self.Free();
        }
        _head.Dispose();
    }

    private void Close()
    {
        if (_file != 0)
        {
            _ = Close(_file);
            _file = 0;
        }
    }

    /// <summary>The library writes marker and blocks, then frames, and comes back at the end to fill in the first block.</summary>
    private void Take(ReadOnlySpan<byte> bytes)
    {
        if (_headBytes < 0 || _position < _headBytes)
        {
            _head.Position = _position;
            _head.Write(bytes);
            _position += bytes.Length;
            _length = Math.Max(_length, _position);
            if (_headBytes < 0 && EndOfHead() is { } end)
            {
                _headBytes = end;
                if (_head.Length > end)
                {
                    _frames(_head.ToArray().AsSpan(end));
                    _head.SetLength(end);
                }
            }
            return;
        }
        if (_position != _length)
        {
            throw new InvalidOperationException("Frames are written in order.");
        }
        _frames(bytes);
        _position += bytes.Length;
        _length = _position;
    }

    /// <summary>Where the frames begin; null while the last block is not there yet.</summary>
    private int? EndOfHead()
    {
        var head = _head.ToArray();
        for (var at = MarkBytes; at + BlockHeadBytes <= head.Length;)
        {
            var end = at + BlockHeadBytes + ((head[at + 1] << 16) | (head[at + 2] << 8) | head[at + 3]);
            if (end > head.Length)
            {
                return null;
            }
            if ((head[at] & 0x80) != 0)
            {
                return end;
            }
            at = end;
        }
        return null;
    }

    private static FlacEncoder Self(nint user) => (FlacEncoder)GCHandle.FromIntPtr(user).Target!;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long LengthOf(nint user) => Self(user)._length;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long SeekTo(long offset, int whence, nint user)
    {
        var self = Self(user);
        return self._position = whence switch { 0 => offset, 1 => self._position + offset, _ => self._length + offset };
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long ReadFrom(nint buffer, long bytes, nint user)
    {
        var self = Self(user);
        if (self._position >= self._head.Length)
        {
            return 0;
        }
        self._head.Position = self._position;
        var read = self._head.Read(new Span<byte>((void*)buffer, (int)Math.Min(bytes, int.MaxValue)));
        self._position += read;
        return read;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long WriteTo(nint buffer, long bytes, nint user)
    {
        var self = Self(user);
        try
        {
            self.Take(new ReadOnlySpan<byte>((void*)buffer, (int)bytes));
            return bytes;
        }
        catch (Exception e)
        {
            // No exception goes through the library: it is thrown to whoever writes the next samples, or ends.
            self._failure ??= e;
            return 0;
        }
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long TellOf(nint user) => Self(user)._position;

    [LibraryImport(Library, EntryPoint = "sf_open_virtual")]
    private static partial nint Open(in VirtualFile file, int mode, ref SndfileInfo info, nint user);

    [LibraryImport(Library, EntryPoint = "sf_writef_int")]
    private static partial long WriteIntegers(nint file, ReadOnlySpan<int> samples, long frames);

    [LibraryImport(Library, EntryPoint = "sf_close")]
    private static partial int Close(nint file);

    [LibraryImport(Library, EntryPoint = "sf_strerror")]
    private static partial nint Error(nint file);
}
