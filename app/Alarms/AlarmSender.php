<?php

declare(strict_types=1);

namespace App\Alarms;

use App\Models\Alarm;
use App\Models\AlarmReceiver;
use App\Models\AlarmSending;
use Illuminate\Support\Facades\Http;
use Illuminate\Support\Facades\Mail;
use StandardWebhooks\Webhook;
use Throwable;

/**
 * Sends what is open and nobody has taken to those that hear of it: at once, again after the receiver's minutes, and where the other
 * side does not take it, after pauses that grow to an hour.
 */
final class AlarmSender
{
    private const AT_ONCE = 100;

    /** Seconds in which the other side answers, or it is tried again later. */
    private const PATIENCE_S = 5;

    private const LONGEST_PAUSE_MIN = 60;

    /** @return int how many were sent */
    public static function sendDue(): int
    {
        $sent = 0;
        $receivers = AlarmReceiver::query()->orderBy('id')->get();
        $alarms = $receivers->isEmpty()
            ? []
            : Alarm::query()->with('workload')->whereNotNull('open')->whereNull('taken_at')->lazyById(self::AT_ONCE);
        foreach ($alarms as $alarm) {
            foreach ($receivers->filter(fn (AlarmReceiver $one): bool => $one->hears($alarm)) as $receiver) {
                $sending = AlarmSending::query()->firstOrCreate(
                    ['alarm_id' => $alarm->id, 'receiver_id' => $receiver->id],
                    ['next_at' => now()],
                );
                if (! $sending->next_at->isFuture()) {
                    $sent += self::send($alarm, $receiver, $sending) ? 1 : 0;
                }
            }
        }

        return $sent;
    }

    private static function send(Alarm $alarm, AlarmReceiver $receiver, AlarmSending $sending): bool
    {
        try {
            self::to($receiver, $alarm->words, $alarm->page, "alarm-{$alarm->id}-{$sending->sent}", $alarm);
        } catch (Throwable $failure) {
            $pause = min(self::LONGEST_PAUSE_MIN, 2 ** min(10, $sending->failed));
            $sending->update([
                'failed' => $sending->failed + 1,
                'failure' => mb_strcut(mb_scrub($failure->getMessage()), 0, 500),
                'next_at' => now()->addMinutes($pause),
            ]);

            return false;
        }
        $sending->update([
            'sent' => $sending->sent + 1, 'failed' => 0, 'failure' => null, 'sent_at' => now(),
            'next_at' => now()->addMinutes($receiver->repeat_min),
        ]);

        return true;
    }

    /**
     * @param  string  $id  by which a receiver knows one that it has already
     *
     * @throws Throwable if the other side did not take it
     */
    public static function to(AlarmReceiver $receiver, string $words, string $page, string $id, ?Alarm $alarm = null): void
    {
        if ($receiver->kind === 'mail') {
            $subject = 'Kaiseki: '.mb_strimwidth((string) preg_replace('/\s+/', ' ', $words), 0, 120, '…');
            Mail::raw("$words\n\n".url($page)."\n", fn ($message) => $message->to($receiver->address)->subject($subject));

            return;
        }
        $body = json_encode([
            'type' => 'alarm.'.($alarm?->sort->value ?? 'trial'),
            'timestamp' => ($alarm->raised_at ?? now())->utc()->format('Y-m-d\TH:i:s\Z'),
            'data' => ['words' => $words, 'page' => url($page), 'workload' => $alarm?->workload?->name],
        ], JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR);
        $at = now()->getTimestamp();
        $response = Http::timeout(self::PATIENCE_S)
            ->connectTimeout(self::PATIENCE_S)
            ->withoutRedirecting() // to an address that nobody named
            ->withHeaders([
                'webhook-id' => $id,
                'webhook-timestamp' => (string) $at,
                'webhook-signature' => (new Webhook((string) $receiver->secret))->sign($id, $at, $body),
            ])
            ->withBody($body, 'application/json')
            ->post($receiver->address);
        if (! $response->successful()) {
            throw NotTaken::answered($response->status());
        }
    }
}
