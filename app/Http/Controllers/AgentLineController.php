<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Agents\Agent;
use App\Agents\AgentOrder;
use App\Line\OnlyByLine;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

/** What agents ask their desk, over the line with TLS: whoever asks is known by nothing but a token. */
final class AgentLineController
{
    private const LARGEST_PIECE = 8 << 20;

    private const LONGEST_REMARKS = 16_384;

    public function enrol(Request $request): Response
    {
        $lines = explode("\n", substr((string) $request->getContent(), 0, 2000));
        $said = ['host' => '', 'system' => '', 'version' => ''];
        foreach (array_slice($lines, 1) as $line) {
            [$what, $value] = [...explode(' ', $line, 2), ''];
            if (isset($said[$what])) {
                $said[$what] = mb_strcut(preg_replace('/[^\x20-\x7e]/', '', $value) ?? '', 0, $what === 'version' ? 20 : 100);
            }
        }
        $got = Agent::enrol(substr($lines[0], 0, 200), $said, (string) $request->ip());

        return $got === null ? self::plain("refused\n", 403) : self::plain("{$got[1]}\n{$got[0]->phrase}\n");
    }

    public function orders(Request $request): Response
    {
        $order = AgentOrder::waiting($this->agent($request));

        return $order === null ? self::plain('', 204) : self::plain($order->text());
    }

    public function wanted(Request $request, int $sequence): Response
    {
        return self::plain($this->order($request, $sequence)->wanted());
    }

    public function piece(Request $request, int $sequence, int $piece): Response
    {
        $bytes = (string) $request->getContent();
        $order = $this->order($request, $sequence);

        return self::plain('', match (strlen($bytes) <= self::LARGEST_PIECE ? $order->take($piece, $bytes) : false) {
            true => 200,
            null => 503,
            false => 409,
        });
    }

    public function done(Request $request, int $sequence): Response
    {
        $this->order($request, $sequence)->finish(substr((string) $request->getContent(), 0, self::LONGEST_REMARKS));

        return self::plain('');
    }

    public function alive(Request $request, int $sequence): Response
    {
        $this->order($request, $sequence);

        return self::plain('');
    }

    /** The one that it works on; one that is over is worth nothing any more. */
    private function order(Request $request, int $sequence): AgentOrder
    {
        $order = AgentOrder::waiting($this->agent($request));

        return $order?->isNumbered($sequence) === true ? $order : abort(self::plain("over\n", 409));
    }

    private function agent(Request $request): Agent
    {
        $agent = Agent::holding((string) $request->header(OnlyByLine::TOKEN)) ?? abort(self::plain("over\n", 410));
        $agent->heard();

        return $agent;
    }

    private static function plain(string $text, int $status = 200): Response
    {
        return response($text, $status, ['Content-Type' => 'application/octet-stream']);
    }
}
