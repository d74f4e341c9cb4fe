<?php

declare(strict_types=1);

namespace Tests\Support;

/** A chain of GNU tar's own making in a scratch folder: a full and increments of a small tree. */
final class Archives
{
    public readonly string $source;

    public readonly string $folder;

    private int $day = 0;

    public function __construct(public readonly Scratch $scratch, private readonly string $suffix = '.tar.gz')
    {
        $this->source = $scratch->folder('src/tree');
        $this->folder = $scratch->folder('archives');
    }

    public function put(string $path, string $content): self
    {
        $this->scratch->file("src/tree/$path", $content);

        return $this;
    }

    public function delete(string $path): self
    {
        $this->scratch->run('rm', '-rf', "{$this->source}/$path");

        return $this;
    }

    /** @return string the name of the set */
    public function dump(string $level): string
    {
        usleep(20_000);
        $snapshot = "{$this->scratch->path}/now.snar";
        if ($level === 'full') {
            @unlink($snapshot);
        } elseif ($level === 'diff') {
            copy("{$this->scratch->path}/full.snar", $snapshot);
        }
        $name = sprintf('tree.%s.202610%02dT020000Z', $level, ++$this->day);
        $this->scratch->run(
            'tar',
            $this->suffix === '.tar' ? '-cf' : '-czf',
            "{$this->folder}/$name{$this->suffix}",
            '--format=posix',
            '--acls',
            "--listed-incremental=$snapshot",
            '-C',
            dirname($this->source),
            'tree',
        );
        if ($level === 'full') {
            copy($snapshot, "{$this->scratch->path}/full.snar");
        }
        usleep(20_000); // the times of files come in ticks, and what changes next must not seem older than this dump

        return $name;
    }

    public function file(string $set): string
    {
        return "{$this->folder}/$set{$this->suffix}";
    }

    public function flip(string $set, int $at): void
    {
        $file = fopen($this->file($set), 'r+b');
        assert($file !== false);
        fseek($file, $at);
        $byte = (string) fread($file, 1);
        fseek($file, $at);
        fwrite($file, chr(ord($byte) ^ 0x10));
        fclose($file);
    }

    public function cut(string $set, int $to): void
    {
        $file = fopen($this->file($set), 'r+b');
        assert($file !== false);
        ftruncate($file, $to);
        fclose($file);
    }
}
