<?php

declare(strict_types=1);

namespace Kaiseki\Core\Packets;

/** What one machine wanted of an address outside, and how often. */
final readonly class Wanted
{
    /** How many are told apart. */
    private const MOST = 1000;

    private const EVERYTHING_ELSE = 'many others';

    /**
     * @param  string  $sender  name of the machine
     * @param  string|null  $name  that was asked for
     * @param  float  $first  Unix time
     */
    public function __construct(
        public string $sender,
        public string $protocol,
        public string $to,
        public ?int $port,
        public ?string $name,
        public int $packets,
        public float $first,
        public float $last,
    ) {
    }

    /**
     * All that a record holds, each kind once, in the order in which they came.
     *
     * @param  iterable<CapturedPacket>  $packets
     * @return list<self>
     *
     * @throws UnreadableCapture
     */
    public static function inAll(iterable $packets): array
    {
        /** @var array<string, self> $all */
        $all = [];
        foreach ($packets as $packet) {
            $frame = Frame::of($packet->bytes);
            $to = match (true) {
                $frame === null => 'nobody: too short to be a frame',
                default => $frame->to ?? implode(':', str_split(bin2hex($frame->destination), 2)),
            };
            $key = implode("\n", [$packet->sender, $frame?->protocol, $to, $frame?->port, $frame?->name]);
            if (! isset($all[$key]) && count($all) >= self::MOST) {
                [$key, $to, $frame] = [self::EVERYTHING_ELSE, self::EVERYTHING_ELSE, null];
            }
            $known = $all[$key] ?? null;
            $all[$key] = new self(
                $packet->sender,
                $frame->protocol ?? '',
                $to,
                $frame?->port,
                $frame?->name,
                ($known->packets ?? 0) + 1,
                $known->first ?? $packet->at,
                $packet->at,
            );
        }

        return array_values($all);
    }

    /** "TCP 198.51.100.7 port 443", "UDP 10.0.2.3 port 53, for rates.example.org" */
    public function words(): string
    {
        $what = trim($this->protocol.' '.$this->to).($this->port === null ? '' : " port {$this->port}");

        return $this->name === null ? $what : "$what, for {$this->name}";
    }
}
