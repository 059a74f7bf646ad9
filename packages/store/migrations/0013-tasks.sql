-- What a render service holds is a task; an order is what the brief says.

ALTER TABLE batch_frames
  CHANGE order_id task_id CHAR(36) CHARACTER SET ascii NULL,
  DROP KEY by_order,
  ADD KEY by_task (batch_id, task_id);

ALTER TABLE batch_lines
  CHANGE order_id task_id CHAR(36) CHARACTER SET ascii NOT NULL;
