<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\Exchange;
use App\Line\OnlyByLine;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\Metal\UnfitLayout;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/** What a recovery medium asks its desk, over a line of its own (bin/configuration.sh): whoever asks is known by nothing but a token. */
final class MediumController
{
    private const LARGEST_PIECE = 8 << 20;

    public function enrol(Request $request): Response
    {
        [$code, $facts] = [...explode("\n", (string) $request->getContent(), 2), ''];
        try {
            $machine = TargetMachine::ofJson($facts);
        } catch (UnfitLayout $unfit) {
            return self::plain("What the machine says of itself cannot be: {$unfit->getMessage()}\n", 400);
        }
        $got = Enrolment::enrol(substr($code, 0, 200), $machine, (string) $request->ip());

        return $got === null ? self::plain("refused\n", 403) : self::plain("{$got[1]}\n{$got[0]->phrase}\n");
    }

    public function orders(Request $request): Response
    {
        return $this->answer($request, fn (Exchange $exchange): ?string => $exchange->orders());
    }

    public function signature(Request $request): Response
    {
        return $this->answer($request, fn (Exchange $exchange): ?string => $exchange->orders('.sig'));
    }

    public function content(Request $request, int $content, int $piece): Response|BinaryFileResponse
    {
        $exchange = $this->exchange($request);
        $file = $exchange?->fetch($content, $piece);

        return $file === null ? self::plain('', 204) : response()->file($file, ['Content-Type' => 'application/octet-stream']);
    }

    public function listing(Request $request, int $listing, string $part, int $piece): Response
    {
        $bytes = (string) $request->getContent();
        $isTaken = strlen($bytes) <= self::LARGEST_PIECE && $this->exchange($request)?->take($listing, $part, $piece, $bytes);

        return self::plain('', $isTaken ? 200 : 409);
    }

    public function progress(Request $request, string $step): Response
    {
        $this->exchange($request)?->tell($step, mb_strcut(mb_scrub((string) $request->getContent()), 0, 500));

        return self::plain('');
    }

    /** @param  \Closure(Exchange): ?string  $what */
    private function answer(Request $request, \Closure $what): Response
    {
        $exchange = $this->exchange($request);
        $said = $exchange === null ? null : $what($exchange);

        return $said === null ? self::plain('', 204) : self::plain($said);
    }

    /** Null while nothing is ordered. */
    private function exchange(Request $request): ?Exchange
    {
        $one = Enrolment::holding((string) $request->header(OnlyByLine::TOKEN)) ?? abort(self::plain("over\n", 410));
        $one->heard();
        $exchange = $one->run === null ? null : Exchange::of($one->run);

        return $exchange?->isBegun() === true ? $exchange : null;
    }

    private static function plain(string $text, int $status = 200): Response
    {
        return response($text, $status, ['Content-Type' => 'text/plain; charset=utf-8']);
    }
}
