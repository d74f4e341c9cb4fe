<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\MachineOrder;
use App\Runs\RunProgress;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\DiskCheck;
use Kaiseki\Core\Machine\DiskCopy;
use Kaiseki\Core\Machine\ImageFormat;
use Kaiseki\Core\Machine\PlannedBlock;
use Symfony\Component\Process\Process;

/**
 * Writes the image of one disk into the staging of a run, and reads it again. Other formats than raw are made here by qemu-img from a
 * raw image that was checked, read back by it into one that is checked as well, and then brought over: what it says of itself is never
 * taken for the check.
 */
final class ImageWriting
{
    /** Ending of the list of the blocks of a raw image. */
    public const BLOCKS = '.blocks';

    private const MODE = 0600;

    private const PIECE = 1 << 20;

    /** Seconds without a byte more that qemu-img may take. */
    private const STUCK = 600;

    public DiskCopy $copy;

    public DiskCheck $check;

    /** BLAKE2b-256, 32 bytes: of the image, and of a raw one of the list of its blocks. */
    public string $digest = '';

    /** Of the file. */
    public int $bytes = 0;

    private int $told = 0;

    /**
     * @param  string  $place  of the new image, below the target
     * @param  string  $work  a folder of the desk for what is made on the way
     */
    public function __construct(
        private readonly DiskOfPoint $disk,
        private readonly MachineOrder $order,
        private readonly Target $target,
        private readonly string $place,
        private readonly string $work,
        private readonly RunProgress $progress,
    ) {
    }

    /** @throws UnableToRestore|UnreadableArchive|CannotBring */
    public function write(): void
    {
        if ($this->order->format === ImageFormat::Raw) {
            $this->writeRaw($this->target, $this->place);
            $this->checkRaw($this->target, $this->place);
            $this->writeBlocks();
            $this->bytes = $this->target->status($this->place)->size ?? 0;

            return;
        }
        $here = FolderBelow::open($this->work);
        $this->writeRaw($here, 'disk.raw');
        $format = $this->order->format;
        $image = "disk.{$format->extension()}";
        $this->convert('raw', "{$this->work}/disk.raw", $format->value, "{$this->work}/$image", $format->options());
        $here->remove('disk.raw');
        $this->convert($format->value, "{$this->work}/$image", 'raw', "{$this->work}/again.raw");
        $this->checkRaw($here, 'again.raw');
        $here->remove('again.raw');
        $this->bring("{$this->work}/$image");
        $here->remove($image);
    }

    private function writeRaw(Target $into, string $place): void
    {
        $this->told = 0;
        $this->copy = $this->disk->copy($this->tell(...));
        $file = $into->createFile($place);
        $this->copy->to($file);
        $file->finish(self::MODE, 0, 0, time() * 1_000_000_000, false);
    }

    private function checkRaw(Target $in, string $place): void
    {
        $stream = $in->read($place) ?? throw UnableToRestore::at($place, 'it cannot be read again');
        $this->told = 0;
        $this->check = DiskCheck::ofStream($this->disk->plan(), $stream, array_fill_keys($this->copy->missing, true), $this->tell(...));
        $this->check->isRight();
        fclose($stream);
    }

    /**
     * Beside a raw image its blocks that are no zeros, a line each: where it begins, its length, its digest. The digest of the whole
     * would take longer than all else: it would have to go through every zero.
     */
    private function writeBlocks(): void
    {
        $plan = $this->disk->plan();
        $file = $this->target->createFile($this->place.self::BLOCKS);
        $digest = new ContentDigest;
        foreach ($plan->pieces() as [, , $blocks]) {
            $lines = '';
            foreach (array_filter($blocks, fn (PlannedBlock $block): bool => $block->isKnown()) as $number => $block) {
                $lines .= sprintf("%d %d %s\n", $number * Blocks::BYTES, Blocks::length($number, $plan->size()), bin2hex($block->digest));
            }
            $digest->data($lines);
            $file->data($lines);
        }
        $file->finish(self::MODE, 0, 0, time() * 1_000_000_000, false);
        $this->digest = $digest->finish();
    }

    private function tell(int $at): void
    {
        $this->progress->advanced(0, $at - $this->told);
        $this->told = $at;
    }

    /** @param  list<string>  $options */
    private function convert(string $from, string $source, string $to, string $image, array $options = []): void
    {
        // An image is nothing but bytes here: formats are named, so that none is guessed from what a guest wrote.
        $process = new Process(['qemu-img', 'convert', '-f', $from, '-O', $to, ...$options, '--', $source, $image], $this->work);
        $process->setTimeout(null);
        $process->start();
        $seen = [-1, microtime(true)];
        while ($process->isRunning()) {
            usleep(50_000);
            clearstatcache(true, $image);
            $size = (int) (@stat($image)['blocks'] ?? 0);
            $seen = $size === $seen[0] ? $seen : [$size, microtime(true)];
            if (microtime(true) - $seen[1] > self::STUCK) {
                $process->stop();
                throw CannotBring::because('qemu-img made no headway for '.self::STUCK.' seconds, and was ended.');
            }
            $this->progress->advanced(0, 0);
        }
        if (! $process->isSuccessful()) {
            $error = mb_strcut(mb_scrub(trim($process->getErrorOutput())), 0, 500);
            throw CannotBring::because("qemu-img could not write the image: $error");
        }
    }

    private function bring(string $image): void
    {
        $source = @fopen($image, 'rb') ?: throw UnableToRestore::at($this->place, 'what was made of it here is gone');
        $file = $this->target->createFile($this->place);
        $digest = new ContentDigest;
        while (! feof($source)) {
            $bytes = (string) fread($source, self::PIECE);
            $digest->data($bytes);
            $file->data($bytes);
            $this->bytes += strlen($bytes);
            $this->progress->advanced(0, 0);
        }
        fclose($source);
        $file->finish(self::MODE, 0, 0, time() * 1_000_000_000, false);
        $this->digest = $digest->finish();
        if ($this->target->digest($this->place) !== $this->digest) {
            throw UnableToRestore::at($this->place, 'what was read again there is not what was written');
        }
    }
}
