<?php

declare(strict_types=1);

namespace Kaiseki\Core\Packets;

/** Reads a pcapng file (draft-ietf-opsawg-pcapng) in the order of bytes that is this machine's; blocks of other kinds are passed over. */
final class CaptureReading
{
    private const LONGEST_BLOCK = 1 << 20;

    private const MOST_INTERFACES = 10_000;

    /** @var list<string> names of the section's interfaces */
    private array $names = [];

    /** @param  resource  $from */
    public function __construct(private $from)
    {
    }

    /**
     * All packets, up to a block at the end that is not whole yet.
     *
     * @return iterable<CapturedPacket>
     *
     * @throws UnreadableCapture
     */
    public function packets(): iterable
    {
        for ($at = 0; strlen($head = (string) fread($this->from, 8)) === 8; $at += $length) {
            ['type' => $type, 'length' => $length] = (array) unpack('Vtype/Vlength', $head);
            ($length >= 12 && $length % 4 === 0 && $length <= self::LONGEST_BLOCK && ($at > 0 || $type === CaptureWriter::SECTION)) ||
                throw UnreadableCapture::at($at);
            $rest = $this->read($length - 8);
            if ($rest === null) {
                return;
            }
            $packet = $this->block($type, substr($rest, 0, -4), $at);
            if ($packet !== null) {
                yield $packet;
            }
        }
    }

    private function read(int $length): ?string
    {
        $bytes = '';
        while (strlen($bytes) < $length && ! feof($this->from)) {
            $bytes .= (string) fread($this->from, $length - strlen($bytes));
        }

        return strlen($bytes) === $length ? $bytes : null;
    }

    private function block(int $type, string $body, int $at): ?CapturedPacket
    {
        switch ($type) {
            case CaptureWriter::SECTION:
                str_starts_with($body, pack('V', CaptureWriter::ORDER)) || throw UnreadableCapture::at($at);
                $this->names = [];

                return null;
            case CaptureWriter::INTERFACE:
                count($this->names) < self::MOST_INTERFACES || throw UnreadableCapture::at($at);
                $this->names[] = self::name(substr($body, 8));

                return null;
            case CaptureWriter::PACKET:
                return strlen($body) < 20 ? throw UnreadableCapture::at($at) : $this->packet($body, $at);
            default:
                return null;
        }
    }

    private function packet(string $body, int $at): CapturedPacket
    {
        /** @var array{interface: int, high: int, low: int, kept: int} $told */
        $told = unpack('Vinterface/Vhigh/Vlow/Vkept', $body);
        $name = $this->names[$told['interface']] ?? throw UnreadableCapture::at($at);
        $told['kept'] <= strlen($body) - 20 || throw UnreadableCapture::at($at);

        return new CapturedPacket($name, ($told['high'] << 32 | $told['low']) / 1e6, substr($body, 20, $told['kept']));
    }

    /** @param  string  $options  each a code, a length, and so many bytes, filled up to four */
    private static function name(string $options): string
    {
        while (strlen($options) >= 4) {
            ['code' => $code, 'length' => $length] = (array) unpack('vcode/vlength', $options);
            if ($code === CaptureWriter::NAME) {
                return mb_scrub(substr($options, 4, $length));
            }
            $options = $code === 0 ? '' : substr($options, 4 + $length + (-$length & 3));
        }

        return '';
    }
}
