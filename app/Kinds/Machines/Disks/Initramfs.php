<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Instance;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\UnreadableVolume;
use Symfony\Component\Process\Process;

/**
 * What a Linux kernel starts with before it has its disk: archives of the format newc behind each other, of which the last is mostly
 * compressed ("initramfs buffer format" of the kernel's documentation). Names are read, and nothing is unpacked.
 */
final readonly class Initramfs
{
    private const LARGEST = 512 << 20;

    private const MOST_SAID = 16 << 20;

    /** Of the archives in front, which hold microcode. */
    private const MOST_IN_FRONT = 1000;

    private const HEAD = 110;

    private const PATIENCE = 120;

    private const CONFINED = ['prlimit', '--as=2147483648', '--cpu=120', '--core=0', '--', 'bsdtar', '-tf', '-'];

    /**
     * @param  iterable<string>  $content
     * @return list<string> the files in it, as it names them
     *
     * @throws UnreadableVolume if it is none
     * @throws UnableToWrite
     */
    public static function names(iterable $content): array
    {
        $copy = Instance::folder('tmp').'/initramfs-'.bin2hex(random_bytes(6));
        $file = @fopen($copy, 'x+b');
        $file !== false || throw UnableToWrite::open($copy, 'The initramfs that is looked into');
        @unlink($copy); // it is there as long as it is open
        try {
            $bytes = 0;
            foreach ($content as $piece) {
                ($bytes += strlen($piece)) <= self::LARGEST || throw UnreadableVolume::because('is larger than one can be');
                fwrite($file, $piece) === strlen($piece) || throw UnableToWrite::full($copy);
            }

            return self::listed($file, $bytes);
        } finally {
            fclose($file);
        }
    }

    /**
     * @param  resource  $file
     * @return list<string>
     */
    private static function listed($file, int $bytes): array
    {
        $names = [];
        $at = 0;
        for ($i = 0; $i < self::MOST_IN_FRONT && str_starts_with(self::read($file, $at, 6), '07070'); $i++) {
            [$name, $at] = self::entry($file, $at);
            $names[] = $name;
            if ($name === 'TRAILER!!!') {
                $at = self::behindZeros($file, $at, $bytes);
            }
        }
        if ($at >= $bytes) {
            return $names;
        }
        fseek($file, $at);
        $process = new Process(self::CONFINED, '/', ['PATH' => '/usr/bin:/bin', 'LC_ALL' => 'C.UTF-8'], $file, self::PATIENCE);
        $said = '';
        $process->start();
        foreach ($process->getIterator(Process::ITER_SKIP_ERR) as $piece) {
            $said .= $piece;
            if (strlen($said) > self::MOST_SAID) {
                $process->stop(0);
                throw UnreadableVolume::because('has more names in it than one can have');
            }
        }
        ($process->isSuccessful() && $said !== '') || throw UnreadableVolume::because(
            'is compressed in a way that is not known here, or damaged',
        );

        return [...$names, ...explode("\n", rtrim($said, "\n"))];
    }

    /**
     * @param  resource  $file
     * @return array{string, int} its name, and where the next begins
     */
    private static function entry($file, int $at): array
    {
        $head = self::read($file, $at, self::HEAD);
        $number = fn (int $field): int => (int) hexdec(substr($head, 6 + 8 * $field, 8));
        strlen($head) === self::HEAD && ctype_xdigit(substr($head, 6)) && $number(11) <= 4096 || throw UnreadableVolume::damaged(
            'an archive in front of its initramfs is none',
        );
        $name = rtrim(self::read($file, $at + self::HEAD, $number(11)), "\0");
        $content = ($at + self::HEAD + $number(11) + 3) & ~3;

        return [$name, ($content + $number(6) + 3) & ~3];
    }

    /** @param  resource  $file */
    private static function behindZeros($file, int $at, int $bytes): int
    {
        while ($at < $bytes) {
            $piece = self::read($file, $at, 4096);
            $zeros = strspn($piece, "\0");
            $at += $zeros;
            if ($zeros < strlen($piece) || $piece === '') {
                return $at;
            }
        }

        return $at;
    }

    /** @param  resource  $file */
    private static function read($file, int $at, int $length): string
    {
        return fseek($file, $at) === 0 && $length > 0 ? (string) fread($file, $length) : '';
    }
}
