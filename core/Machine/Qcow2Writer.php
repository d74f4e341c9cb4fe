<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Kaiseki\Core\UnableToWrite;

/**
 * Writes an image in the format of QEMU ("QCOW2 image format", docs/interop/qcow2 of the QEMU project, version 3), front to back: clusters
 * of 64 KiB, nothing compressed. Memory is one table of 64 KiB, whatever the disk's size.
 */
final class Qcow2Writer
{
    private const CLUSTER_BITS = 16;

    /** Clusters that one table of the second level is for. */
    private const OF_TABLE = Blocks::BYTES / 8;

    private const COPIED = 1 << 63;

    private const ZERO = 1;

    private const BACKING_FORMAT = 0xE2792ACA;

    private const HEADER = 104;

    /** Two to this many bits count how often a cluster is used. */
    private const COUNT_BITS = 4;

    /** @var array<int, int> number within its table => entry */
    private array $table = [];

    private int $tableNumber = 0;

    /** @var array<int, int> number of a table => where it is, as an entry */
    private array $tables = [];

    /** The next cluster of the file that is free; the header's is the first. */
    private int $next = 1;

    /**
     * @param  resource  $file  new, open for writing, and can be sought in
     * @param  int  $size  bytes of the disk
     */
    private function __construct(
        private $file,
        private readonly string $path,
        private readonly int $size,
        private readonly ?string $backing,
    ) {
    }

    /**
     * @param  string|null  $backing  name of the image below, beside this one; null for none, then the rest is zeros
     *
     * @throws UnableToWrite
     */
    public static function create(string $path, int $size, ?string $backing = null): self
    {
        $file = @fopen($path, 'wb') ?: throw UnableToWrite::full($path);
        $writer = new self($file, $path, $size, $backing);
        $writer->put(str_repeat("\0", Blocks::BYTES)); // the header, once all is known

        return $writer;
    }

    /** Each behind the one before. Only the last of the disk may be shorter. */
    public function block(int $number, string $bytes): void
    {
        $this->reach($number);
        $this->table[$number % self::OF_TABLE] = ($this->next * Blocks::BYTES) | self::COPIED;
        $this->putClusters($bytes);
    }

    /** Zeros, whatever the image below has there. */
    public function zeros(int $number, int $count): void
    {
        for (; $count > 0; $number++, $count--) {
            $this->reach($number);
            $this->table[$number % self::OF_TABLE] = self::ZERO;
        }
    }

    private function reach(int $number): void
    {
        $table = intdiv($number, self::OF_TABLE);
        if ($table !== $this->tableNumber) {
            $this->endTable();
            $this->tableNumber = $table;
        }
    }

    private function endTable(): void
    {
        if ($this->table !== []) {
            $this->tables[$this->tableNumber] = ($this->next * Blocks::BYTES) | self::COPIED;
            $this->putClusters(self::packed($this->table, self::OF_TABLE));
            $this->table = [];
        }
    }

    /** @param  array<int, int>  $entries */
    private static function packed(array $entries, int $count): string
    {
        $all = $entries + array_fill(0, $count, 0);
        ksort($all);

        return pack('J*', ...$all);
    }

    /** @throws UnableToWrite */
    public function finish(): void
    {
        $this->endTable();
        $tables = max(1, intdiv(Blocks::of($this->size) + self::OF_TABLE - 1, self::OF_TABLE));
        $tablesAt = $this->next * Blocks::BYTES;
        $this->putClusters(self::packed($this->tables, $tables));
        [$countsAt, $counts] = $this->putCounts();
        $this->header($tables, $tablesAt, $countsAt, $counts);
        (fflush($this->file) && fsync($this->file) && fclose($this->file)) || throw UnableToWrite::full($this->path);
    }

    /**
     * Every cluster of the file is used once, those that say so too: what is used stands behind all else.
     *
     * @return array{int, int} where the table of these counts is, and how many clusters it takes
     */
    private function putCounts(): array
    {
        $perBlock = intdiv(Blocks::BYTES, 2);
        [$before, $blocks, $table] = [$this->next, 0, 0];
        do {
            $all = $before + $table + $blocks;
            $blocks = intdiv($all + $perBlock - 1, $perBlock);
            $table = intdiv(8 * $blocks + Blocks::BYTES - 1, Blocks::BYTES);
        } while ($before + $table + $blocks > $all);
        $places = array_map(fn (int $i): int => ($before + $table + $i) * Blocks::BYTES, range(0, $blocks - 1));
        $this->putClusters(self::packed($places, $table * self::OF_TABLE));
        for ($i = 0; $i < $blocks; $i++) {
            $used = min($perBlock, $all - $i * $perBlock);
            $this->putClusters(str_repeat("\0\1", $used).str_repeat("\0\0", $perBlock - $used));
        }

        return [$before * Blocks::BYTES, $table];
    }

    private function header(int $tables, int $tablesAt, int $countsAt, int $counts): void
    {
        $name = (string) $this->backing;
        $format = $name === '' ? '' : pack('NN', self::BACKING_FORMAT, 5)."qcow2\0\0\0";
        $extensions = $format.pack('NN', 0, 0);
        $header = "QFI\xfb".pack('NJN', 3, $name === '' ? 0 : self::HEADER + strlen($extensions), strlen($name));
        $header .= pack('NJNN', self::CLUSTER_BITS, $this->size, 0, $tables);
        $header .= pack('JJNNJ', $tablesAt, $countsAt, $counts, 0, 0);
        $header .= pack('JJJNN', 0, 0, 0, self::COUNT_BITS, self::HEADER);
        (fflush($this->file) && fseek($this->file, 0) === 0) || throw UnableToWrite::full($this->path);
        $this->put($header.$extensions.$name);
    }

    private function putClusters(string $bytes): void
    {
        $clusters = intdiv(strlen($bytes) + Blocks::BYTES - 1, Blocks::BYTES);
        $this->put(strlen($bytes) === $clusters * Blocks::BYTES ? $bytes : str_pad($bytes, $clusters * Blocks::BYTES, "\0"));
        $this->next += $clusters;
    }

    private function put(string $bytes): void
    {
        @fwrite($this->file, $bytes) === strlen($bytes) || throw UnableToWrite::full($this->path);
    }
}
