<?php

declare(strict_types=1);

namespace Tests\Support;

use Symfony\Component\Process\Process;

/** An NTFS volume in a file, made by mkntfs and filled by wimlib, which write it without mounting it. */
final readonly class NtfsVolume
{
    public string $image;

    /**
     * @param  string|null  $tree  a folder with what is on it
     * @param  string  ...$options  of mkntfs
     */
    public function __construct(private Scratch $scratch, ?string $tree, int $bytes = 48 << 20, string ...$options)
    {
        $this->image = $scratch->at('ntfs.raw');
        self::ran('truncate', '-s', (string) $bytes, $this->image);
        self::ran('mkntfs', '-q', '-F', '-L', 'Harbour', ...[...$options, $this->image]);
        if ($tree !== null) {
            $wim = $scratch->at('tree.wim');
            self::ran('wimcapture', $tree, $wim, '--compress=none');
            self::ran('wimapply', $wim, $this->image);
        }
    }

    public static function ran(string ...$command): string
    {
        return (new Process($command, null, ['LC_ALL' => 'C.UTF-8']))->setTimeout(null)->mustRun()->getOutput();
    }

    /** A file more, or a stream beside the content of one. */
    public function put(string $from, string $to, string ...$options): void
    {
        self::ran('ntfscp', '-q', ...[...$options, $this->image, $from, $to]);
    }

    /** What ntfscat reads of a file. */
    public function content(string $path): string
    {
        return self::ran('ntfscat', '-f', $this->image, $path);
    }

    /** @return string a folder with what wimlib reads out of it */
    public function extracted(): string
    {
        $wim = $this->scratch->at('again.wim');
        self::ran('wimcapture', $this->image, $wim, '--compress=none');
        $folder = $this->scratch->folder('extracted');
        self::ran('wimapply', $wim, $folder);

        return $folder;
    }
}
