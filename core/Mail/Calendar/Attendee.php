<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

use Kaiseki\Core\Mail\MailAddress;

/** Somebody who is asked to an appointment (RFC 5545, section 3.8.4.1). */
final readonly class Attendee
{
    private const ANSWERS = [
        'ACCEPTED' => 'comes', 'DECLINED' => 'does not come', 'TENTATIVE' => 'comes perhaps', 'DELEGATED' => 'sends somebody else',
        'NEEDS-ACTION' => 'has not answered', 'COMPLETED' => 'is done with it', 'IN-PROCESS' => 'is at it',
    ];

    private function __construct(public MailAddress $who, public string $answer)
    {
    }

    public static function of(ContentLine $line): self
    {
        $answer = self::ANSWERS[strtoupper($line->parameter('PARTSTAT'))] ?? self::ANSWERS['NEEDS-ACTION'];

        return new self(self::address($line), $answer);
    }

    public static function address(ContentLine $line): MailAddress
    {
        return new MailAddress($line->parameter('CN'), (string) preg_replace('/^mailto:/i', '', $line->text()));
    }

    public function words(): string
    {
        return "{$this->who->words()}, {$this->answer}";
    }
}
