<?php

declare(strict_types=1);

namespace App\Agents;

use App\Instance;
use App\Line\LineKey;
use App\Sets\CannotRegister;
use App\Words;
use Illuminate\Support\Facades\File;
use Kaiseki\Core\Archive\GzipStream;

/**
 * One order to an agent, and what comes of it: a signed line that it takes when it asks, and pieces that it sends, handed over in a
 * folder of the home. Its number is greater than any before, so that none can be played again.
 */
final class AgentOrder
{
    private const HEAD = 'kaiseki-agent-1';

    public const LIST = 'list';

    public const CONTENTS = 'contents';

    /** All was read. */
    public const END = 'end';

    /** By which an agent says that nothing may be made of what it sent, and why. */
    private const UNUSABLE = 'unusable ';

    /** Pieces that wait to be read. */
    private const AHEAD = 6;

    /** Bytes that one may unpack to, times its size: a machine that was never written to is mostly zeros. */
    private const MOST_TIMES = 1000;

    private float $looked = 0.0;

    private function __construct(private readonly Agent $agent, private readonly int $sequence)
    {
    }

    /** @param  list<int>  $numbers  of the list that it sent before, that are wanted */
    public static function give(Agent $agent, string $word, array $numbers = []): self
    {
        $agent->increment('sequence');
        $self = new self($agent, (int) $agent->refresh()->sequence);
        $self->withdraw();
        File::makeDirectory($self->folder(), 0700, true);
        $wanted = $numbers === [] ? '' : implode("\n", $numbers)."\n";
        file_put_contents($self->file('wanted'), $wanted);
        $text = implode(' ', [self::HEAD, $agent->token, $self->sequence, $word, ...$wanted === '' ? [] : [hash('sha256', $wanted)]])."\n";
        file_put_contents($self->file('order.new'), LineKey::sign($text).$text);
        rename($self->file('order.new'), $self->file('order'));

        return $self;
    }

    /** What an agent is told when it asks; null while there is nothing. */
    public static function waiting(Agent $agent): ?self
    {
        $self = new self($agent, (int) $agent->sequence);

        return is_file($self->file('order')) && ! is_file($self->file('done')) ? $self : null;
    }

    public function isNumbered(int $sequence): bool
    {
        return $this->sequence === $sequence;
    }

    public function text(): string
    {
        return (string) file_get_contents($this->file('order'));
    }

    public function wanted(): string
    {
        return (string) file_get_contents($this->file('wanted'));
    }

    /** @return bool|null whether it is taken; null if it is to come again later. One that came already comes to nothing. */
    public function take(int $piece, string $bytes): ?bool
    {
        $next = (int) @file_get_contents($this->file('next'));
        if ($piece !== $next) {
            return $piece < $next;
        }
        if (count(glob($this->file('piece.*')) ?: []) >= self::AHEAD) {
            return null;
        }
        $new = $this->file('new.'.bin2hex(random_bytes(4))); // one that is sent twice at a time is written twice
        file_put_contents($new, $bytes);
        rename($new, $this->file("piece.$piece"));
        file_put_contents($this->file('next'), (string) ($piece + 1));

        return true;
    }

    public function finish(string $remarks): void
    {
        file_put_contents($this->file('done.new'), $remarks);
        rename($this->file('done.new'), $this->file('done'));
    }

    /** What it sends, as it comes. */
    public function stream(): GzipStream
    {
        return new GzipStream(new ArrivingPieces($this), 0, self::MOST_TIMES);
    }

    /**
     * A piece that came, waited for.
     *
     * @return string|null null behind the last one
     *
     * @throws CannotRegister if nobody sends it any more, or nothing may be made of it
     */
    public function piece(int $piece): ?string
    {
        $file = $this->file("piece.$piece");
        while (! is_file($file)) {
            if (is_file($this->file('done')) && $piece >= (int) @file_get_contents($this->file('next'))) {
                $this->lookAtEnd();

                return null;
            }
            $this->wait();
        }
        $bytes = (string) file_get_contents($file);
        unlink($file);

        return $bytes;
    }

    private function lookAtEnd(): void
    {
        foreach ($this->remarks() as $line) {
            ! str_starts_with($line, self::UNUSABLE) || throw CannotRegister::because(
                "{$this->agent->workload->name} could not be read: ".substr($line, strlen(self::UNUSABLE)),
            );
        }
    }

    /**
     * What the agent has to say of it at its end.
     *
     * @return list<string>
     *
     * @throws CannotRegister
     */
    public function remarks(): array
    {
        while (! is_file($this->file('done'))) {
            $this->wait();
        }
        $lines = explode("\n", mb_scrub((string) file_get_contents($this->file('done'))));

        return array_values(array_filter($lines, fn (string $line): bool => trim($line) !== ''));
    }

    private function wait(): void
    {
        usleep(20_000);
        if (microtime(true) - $this->looked < 1.0) {
            return;
        }
        $this->looked = microtime(true);
        $agent = $this->agent->refresh();
        $agent->ended_at === null || throw CannotRegister::because("Agent {$agent->id} of {$agent->workload->name} {$agent->state()}.");
        $agent->isSilent() && throw CannotRegister::because(sprintf(
            '%s has not been heard of since %s: it is off, its agent does not run, or its network is cut.',
            $agent->workload->name,
            $agent->seen_at === null ? 'it was made known' : Words::moment($agent->seen_at, 'UTC'),
        ));
    }

    /** Nothing is left of it, nor of one before. */
    public function withdraw(): void
    {
        File::deleteDirectory(Instance::path("agents/{$this->agent->id}"));
    }

    private function folder(): string
    {
        return Instance::folder('agents')."/{$this->agent->id}/{$this->sequence}";
    }

    private function file(string $name): string
    {
        return "{$this->folder()}/$name";
    }
}
