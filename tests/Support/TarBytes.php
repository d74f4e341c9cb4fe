<?php

declare(strict_types=1);

namespace Tests\Support;

/** Tar archives put together by hand, byte by byte, also such as no honest program writes. */
final class TarBytes
{
    private string $bytes = '';

    public static function new(): self
    {
        return new self;
    }

    /** @param  array<string, string>  $fields raw bytes for some header fields: name, mode, size, mtime, link, magic, prefix */
    public function member(string $name, string $content = '', string $type = '0', array $fields = []): self
    {
        $header = pack(
            'a100a8a8a8a12a12a8a1a100a8a32a32a8a8a155a12',
            $fields['name'] ?? $name,
            $fields['mode'] ?? "0000644\0",
            "0000000\0",
            "0000000\0",
            $fields['size'] ?? sprintf("%011o\0", strlen($content)),
            $fields['mtime'] ?? "14000000000\0",
            '        ',
            $type,
            $fields['link'] ?? '',
            $fields['magic'] ?? "ustar\00000",
            'root',
            'root',
            "0000000\0",
            "0000000\0",
            $fields['prefix'] ?? '',
            '',
        );
        $sum = array_sum(unpack('C*', $header));
        $this->bytes .=
            substr_replace($header, sprintf("%06o\0 ", $sum), 148, 8).$content.str_repeat("\0", (512 - (strlen($content) % 512)) % 512);

        return $this;
    }

    /** @param  array<string, string>  $records */
    public function pax(array $records, string $type = 'x'): self
    {
        $body = '';
        foreach ($records as $keyword => $value) {
            $line = " $keyword=$value\n";
            $length = strlen($line) + 1;
            while (strlen($length.$line) !== $length) {
                $length++;
            }
            $body .= $length.$line;
        }

        return $this->member('PaxHeaders/x', $body, $type);
    }

    public function raw(string $bytes): self
    {
        $this->bytes .= $bytes;

        return $this;
    }

    public function bytes(): string
    {
        return $this->bytes.str_repeat("\0", 1024);
    }

    /** Without the mark at the end, so that more may follow. */
    public function bytesWithoutEnd(): string
    {
        return $this->bytes;
    }

    public function write(string $path): string
    {
        file_put_contents($path, $this->bytes());

        return $path;
    }
}
