import { changeFrontDoor } from '../../app/chat-forms.ts';
import { FrontDoor } from '../../core/message/front-door.ts';
import { changes } from '../../web/endpoint.ts';

export const PUT = changes(FrontDoor, (use, door) => changeFrontDoor(use, door));
